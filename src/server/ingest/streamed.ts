import { createHash } from 'node:crypto';
import { mostOfAnAttempt } from '../../browser/recording/allowance.ts';
import { deepest, isTooDeep } from '../../core/formats/json-depth.ts';
import { guarded } from '../../core/background.ts';
import type { EvidenceEvent } from '../../core/evidence/event.ts';
import { readStreamed } from '../../core/evidence/streamed.ts';
import type { Environment } from '../../core/evidence/attempt.ts';
import type { AttemptLabels, EvidenceFile } from '../../core/records.ts';
import type { Changes } from '../changes.ts';
import { firstTiming, materialise } from './delivered/materialise.ts';
import type { EvidenceDesk } from '../jobs/evidence-desk.ts';
import type { Store } from '../store/store.ts';
import type { RecordingSink } from './recorded.ts';

export interface StreamedAttempt {
  /** The reporter's own name for this attempt: begun twice with the same key, it is the same attempt. */
  key?: string;
  run: string;
  test: { suite: string; title: string; file?: string };
  number?: number;
  environment: Environment;
  startedAt: number;
  commit?: string;
  branch?: string;
  labels: AttemptLabels;
  secrets: string[];
}

export interface TakenEvents {
  taken: number;
  refused: { line: number; message: string }[];
}

/** Events written in one transaction, after which others have their turn. */
const batch = 1000;
const longestLine = 4 * 1024 * 1024;
const mostRefused = 100;
/** A reporter that is silent this long has died with its runner. */
const silentMs = 30 * 60_000;

/** Evidence sent by any runner's own reporter, while its tests run. */
export class Streamed {
  private readonly heard = new Map<string, number>();
  private readonly timer: NodeJS.Timeout;

  constructor(
    private readonly store: Store,
    private readonly sink: RecordingSink,
    private readonly changes: Changes,
    private readonly desk: EvidenceDesk,
  ) {
    // A reporter whose server was restarted goes on where it was.
    for (const id of store.attempts.streaming()) this.heard.set(id, Date.now());
    this.timer = setInterval(() => guarded('looking for silent reporters', () => this.sweep()), 60_000);
    this.timer.unref();
  }

  begin(told: StreamedAttempt): { id: string; isNew: boolean } {
    const { store } = this;
    const masker = store.rules.masker(told.secrets);
    const id =
      told.key === undefined
        ? undefined
        : `a-${createHash('sha256').update(`${told.run}\n${told.key}`).digest('hex').slice(0, 16)}`;
    const known = id !== undefined && store.attempts.get(id);
    const isNew = !known;
    const begun = known
      ? id
      : store.attempts.begin({
          ...(id ? { id } : {}),
          runId: store.runs.named(masker.text(told.run), told.startedAt, { commit: told.commit, branch: told.branch }),
          test: masker.value(told.test),
          number: told.number,
          environment: masker.value(told.environment),
          startedAt: told.startedAt,
          labels: { ...masker.value(told.labels), ...(told.secrets.length ? { secrets: true } : {}) },
          source: 'streamed',
        });
    store.secrets.remember(told.secrets);
    this.sink.remember(begun, masker);
    this.heard.set(begun, Date.now());
    this.tell(begun);
    return { id: begun, isNew };
  }

  /** True when declared secrets were lost with an earlier server, so that nothing may be stored before they are told again. */
  needsSecrets(id: string): boolean {
    return this.store.attempts.get(id)?.labels.secrets === true && !this.sink.knowsSecretsOf(id);
  }

  /**
   * Reads JSON lines as they come; each part is stored before more is read, so a reporter that sends
   * too fast is held back. The same event sent again takes its own place again.
   */
  async events(id: string, startedAt: number, body: AsyncIterable<Uint8Array>): Promise<TakenEvents> {
    const { store } = this;
    const masker = this.sink.maskerOf(id);
    const out: TakenEvents = { taken: 0, refused: [] };
    const decoder = new TextDecoder();
    let rest = '';
    let line = 0;
    let events: EvidenceEvent[] = [];
    let room = mostOfAnAttempt.events - store.events.count(id);
    const refuse = (message: string): void => {
      if (out.refused.length < mostRefused) out.refused.push({ line, message });
    };
    const take = (text: string): void => {
      line++;
      if (!text.trim()) return;
      if (room <= 0) return refuse(`an attempt may have ${mostOfAnAttempt.events} events; what follows is left out`);
      room--;
      try {
        if (isTooDeep(Buffer.from(text))) throw new Error(`it is nested more than ${deepest} deep`);
        const event = readStreamed(JSON.parse(text), startedAt);
        const clean = masker.surelyClean(text) ? event : masker.value(event);
        events.push(clean.lane === 'screen' ? this.withBlob(id, clean) : clean);
      } catch (error) {
        refuse(error instanceof SyntaxError ? `not readable as JSON: ${error.message}` : (error as Error).message);
      }
    };
    const flush = async (): Promise<void> => {
      if (!events.length) return;
      const part = events;
      events = [];
      await store.patiently(() => store.events.write(id, part));
      out.taken += part.length;
      this.heard.set(id, Date.now());
      await new Promise((done) => setImmediate(done));
    };
    for await (const chunk of body) {
      rest += decoder.decode(chunk, { stream: true });
      let from = 0;
      for (let end = rest.indexOf('\n'); end >= 0; end = rest.indexOf('\n', from)) {
        take(rest.slice(from, end));
        from = end + 1;
        if (events.length >= batch) await flush();
      }
      rest = rest.slice(from);
      if (rest.length > longestLine) {
        line++;
        refuse('a line is longer than 4 MiB; what follows it was not read');
        rest = '';
        break;
      }
    }
    if (rest) take(rest);
    await flush();
    const attempt = store.attempts.get(id);
    if (attempt && attempt.state !== 'recording' && out.taken) this.sink.settle(id);
    this.tell(id);
    return out;
  }

  /** A screen event may name a picture as it was sent; here it gets the name it is stored by, and its size. */
  private withBlob(id: string, event: EvidenceEvent & { lane: 'screen' }): EvidenceEvent {
    const file = this.store.files.ofAttemptNamed(id, event.data.blob);
    if (!file && !this.store.blobs.find(event.data.blob))
      throw new Error(
        `there is no picture “${event.data.blob}” of this attempt yet; PUT it before the event that shows it`,
      );
    if (!file) return event;
    const { mime = '', width = 0, height = 0 } = file.facts;
    return { ...event, data: { ...event.data, mime, width, height, scale: event.data.scale ?? 1, blob: file.blob } };
  }

  /**
   * Keeps a file of an attempt: a picture, a video, a HAR, a log, whatever an intake would read.
   * @param at ms from the attempt's start; without it a picture waits for the event that shows it
   * @throws Error in words when it is of no kind that is read
   */
  async blob(id: string, name: string, bytes: Buffer, at: number | undefined): Promise<EvidenceFile> {
    const { store } = this;
    const attempt = store.attempts.get(id)!;
    const masker = this.sink.maskerOf(id);
    const read = await this.desk.read(name, bytes, attempt.startedAt, masker);
    const blob = await store.blobs.keep(read.bytes, read.mime);
    const timing = firstTiming(read, attempt);
    const file: EvidenceFile = {
      id: `f-${createHash('sha256').update(`${id}\n${read.name}`).digest('hex').slice(0, 12)}`,
      intakeId: null,
      runId: attempt.runId,
      name: read.name,
      kind: read.kind,
      blob,
      size: read.size,
      facts: read.facts,
      state: 'placed',
      attemptId: id,
      score: 1,
      reasons: ['its reporter sent it with this attempt'],
      candidates: [],
      placedBy: 'report',
      offsetMs: at ?? timing.offsetMs,
      offsetWithin: at === undefined ? timing.within : 1,
      offsetHow: at === undefined ? timing.how : 'told by the reporter',
    };
    await store.patiently(() => {
      store.files.replace(file);
      const shown = read.kind === 'picture' || read.kind === 'video';
      if (!shown || at !== undefined)
        store.events.write(id, materialise(file, read.events, attempt, { offsetMs: file.offsetMs! }));
    });
    this.heard.set(id, Date.now());
    return file;
  }

  private sweep(): void {
    for (const [id, at] of this.heard) {
      const attempt = this.store.attempts.get(id);
      if (!attempt || attempt.state !== 'recording') this.heard.delete(id);
      else if (Date.now() - at > silentMs) {
        this.heard.delete(id);
        this.sink.end(id, this.store.events.lastTime(id), `its reporter was silent for ${silentMs / 60_000} minutes`);
      }
    }
  }

  private tell(id: string): void {
    const attempt = this.store.attempts.get(id);
    if (attempt) this.changes.tell({ type: 'attempt', id, runId: attempt.runId, seriesId: null });
  }

  close(): void {
    clearInterval(this.timer);
  }
}
