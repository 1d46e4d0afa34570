import { sessionAt, unnamedSession } from '../../core/evidence/session-name.ts';
import { guarded } from '../../core/background.ts';
import type { Environment } from '../../core/evidence/attempt.ts';
import type { EvidenceEvent, Locator } from '../../core/evidence/event.ts';
import type { Masker } from '../../core/evidence/masking.ts';
import type { StandingRules } from '../../core/rules/standing-rules.ts';
import type { LinearPattern } from '../../core/patterns/linear-pattern.ts';
import type { AttemptRequest, EvidenceSink, ToldOutcome } from '../../browser/recording/sink.ts';
import type { Changes } from '../changes.ts';
import { newId } from '../store/attempts.ts';
import type { Store } from '../store/store.ts';
import type { AnalysisJobs } from '../jobs/analysis.ts';

/** How often pages are told that an attempt grew, ms. */
const growEveryMs = 800;

/** A shorter value of a password field is not looked for in what is told later: words of everybody's are as short. */
const shortestLearned = 8;

/** Of how many attempts the declared secrets are remembered. */
const mostMaskers = 2000;

/** Where recorded evidence goes: into the store, and on to the analysis when it is whole. */
export class RecordingSink implements EvidenceSink {
  /** Declared secrets live in memory only, so that an outcome told after the session is masked like one told in it. */
  private readonly maskers = new Map<string, Masker>();
  /** Attempts that were given no test name and wait for the first address. */
  private readonly unnamed = new Map<string, number>();

  constructor(
    private readonly store: Store,
    private readonly analysis: AnalysisJobs,
    private readonly changes: Changes,
    readonly keepsBodies: boolean,
    readonly traced: readonly string[],
    private readonly series?: { id: string; runId: string; test: { suite: string; title: string } },
  ) {}

  newId(): string {
    return newId('a');
  }

  begin(id: string, request: AttemptRequest, environment: Environment, startedAt: number, masker: Masker): void {
    this.remember(id, masker);
    const { runs, attempts, secrets } = this.store;
    const { run, test, number, commit, branch, tags, labels, shard, worker, detail } = request;
    const title = test?.title ?? unnamedSession(startedAt);
    this.store.together(() => {
      secrets.remember(masker.secrets);
      const runId =
        this.series?.runId ?? (run ? runs.named(run, startedAt, { commit, branch }) : runs.unnamed(startedAt));
      attempts.begin({
        id,
        runId,
        test: this.series?.test ?? { suite: test?.suite ?? '', title, file: test?.file },
        number,
        environment,
        startedAt,
        labels: { tags, labels, shard, worker, detail },
        seriesId: this.series?.id,
      });
    });
    if (!test?.title && !this.series) this.unnamed.set(id, startedAt);
    this.tell(id);
  }

  masks(): LinearPattern[] {
    return this.store.rules.patterns();
  }

  /** What nobody can say just now is as if nobody had said it. */
  standing(): StandingRules | undefined {
    return guarded('asking for the standing rules', () => this.store.rules.get());
  }

  usedBefore(attempt: string): Locator[] {
    return guarded('asking for locators used before', () => this.store.locators.usedBefore(attempt), attempt) ?? [];
  }

  write(attempt: string, events: readonly EvidenceEvent[]): number {
    this.store.sureOfFolder();
    const bytes = this.store.events.write(attempt, events);
    this.grew(attempt);
    return bytes;
  }

  /** Pages that show an attempt being recorded hear of what is new, about once a second. */
  private grew(attempt: string): void {
    const now = performance.now();
    if (!this.changes.heard || now - (this.toldAt.get(attempt) ?? -Infinity) < growEveryMs) return;
    this.toldAt.set(attempt, now);
    this.changes.tell({ type: 'evidence', id: attempt });
  }
  private readonly toldAt = new Map<string, number>();

  keep(bytes: Buffer, mime: string): Promise<string> {
    return this.store.blobs.keep(bytes, mime);
  }

  learned(secrets: readonly string[]): void {
    this.store.secrets.remember(secrets.filter((secret) => secret.length >= shortestLearned));
  }

  maskAgain(attempt: string, texts: readonly string[], clean: (event: EvidenceEvent) => EvidenceEvent): Promise<void> {
    return this.store.events.rewrite(attempt, texts, clean);
  }

  opened(attempt: string, address: string): void {
    const startedAt = this.unnamed.get(attempt);
    if (startedAt === undefined) return;
    this.unnamed.delete(attempt);
    this.store.attempts.rename(attempt, { suite: '', title: sessionAt(address, startedAt) });
  }

  sized(attempt: string, width: number, height: number): void {
    this.store.attempts.resize(attempt, width, height);
  }

  /** True while the secrets its client declared are known here. */
  knowsSecretsOf(attempt: string): boolean {
    return this.maskers.has(attempt);
  }

  /** A text without any secret that is remembered here. */
  withoutSecrets(text: string): string {
    let out = text;
    for (const masker of this.maskers.values()) out = masker.text(out);
    return out;
  }

  remember(attempt: string, masker: Masker): void {
    this.maskers.set(attempt, masker);
    if (this.maskers.size > mostMaskers) this.maskers.delete(this.maskers.keys().next().value!);
  }

  /** The masker of an attempt; one that knows secrets by shape when its session is long past. */
  maskerOf(attempt: string): Masker {
    return this.maskers.get(attempt) ?? this.store.rules.masker();
  }

  outcome(attempt: string, { status, message, stack }: ToldOutcome): void {
    this.store.attempts.outcome(attempt, status, message, stack);
    const state = this.store.attempts.get(attempt)?.state;
    if (state && state !== 'recording') this.settle(attempt);
    this.tell(attempt);
  }

  /** Has an ended attempt analysed again, since evidence came after its end. */
  settle(attempt: string): void {
    this.store.attempts.setState(attempt, 'settling');
    this.analysis.settle(attempt);
  }

  end(attempt: string, durationMs: number, interrupted?: string): void {
    this.unnamed.delete(attempt);
    this.toldAt.delete(attempt);
    this.store.attempts.end(attempt, durationMs, interrupted);
    this.analysis.settle(attempt);
    this.tell(attempt);
  }

  private tell(id: string): void {
    const attempt = this.store.attempts.get(id);
    if (attempt) this.changes.tell({ type: 'attempt', id, runId: attempt.runId, seriesId: attempt.seriesId });
  }
}
