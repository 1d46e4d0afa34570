import { createHash } from 'node:crypto';
import { analysisVersion } from '../../../core/analyse.ts';
import { priorsOf } from '../../../core/causes/learning.ts';
import { analyseStored, toJudge, type Analysed } from '../analyse-stored.ts';
import { isFailure } from '../../../core/evidence/attempt.ts';
import { eventsOf } from '../../../core/evidence/event.ts';
import { numberHash } from '../../../core/evidence/hash.ts';
import type { Masker } from '../../../core/evidence/masking.ts';
import type { FrameRules } from '../../../core/failures/stack.ts';
import { DotnetReader } from '../../../core/formats/dotnet.ts';
import { JunitReader } from '../../../core/formats/junit.ts';
import type { ReportCase } from '../../../core/formats/report.ts';
import { readTap } from '../../../core/formats/tap.ts';
import { isoOf, isTime } from '../../../core/formats/times.ts';
import type { Attempt, AttemptLabels, FileFate, FileKind, IntakeResult } from '../../../core/records.ts';
import { newId } from '../../store/attempts.ts';
import type { Store } from '../../store/store.ts';
import { restorePack } from '../../exports/packs.ts';
import { HeldEvents, Shelf } from './held-events.ts';
import { gather, type Gathered } from './gather.ts';
import { placeLoose } from './place-loose.ts';
import { eventsKept } from './materialise.ts';
import { readLoose, type LooseFile, type ReadFile } from './read-loose.ts';
import { earlierReport, ofSeveral, tellRecorded } from './tell-recorded.ts';
import { ReportWriter } from './report-writer.ts';
import type { IntakeTools } from './tools.ts';
import { attemptId, environmentOf, outputEvents, tagsOf, type IntakeFields } from './report-attempts.ts';
import { texts, whole, type Source } from './source.ts';

const kindWords: Record<FileKind, string> = {
  picture: 'a picture',
  video: 'a video',
  log: 'a log',
  har: 'a recording of the network',
  trace: 'spans of a service',
  cues: 'captions',
  text: 'a text without times',
  markup: 'a page',
};
/** No test takes longer, ms: what says so counts for as long. */
const longestMs = 1e10;
const plural = (count: number, what: string): string => `${count} ${what}${count === 1 ? '' : 's'}`;
const mostProblems = 500;
/** So many attempts without evidence are written in one go. */
const mostBare = 64;
/** Passing attempts of one delivery that are told of: more of them tell nothing more. */
const mostTold = 2000;

/** Takes a delivery in: reports become attempts, loose files are placed, the rest is listed with why. */
export class Intake {
  private readonly result: IntakeResult = { runId: null, attempts: 0, attached: 0, unmatched: [], problems: [] };
  private readonly attachments = new Map<string, string[]>();
  /** The report that is being read. */
  private reportName = '';
  /** Files came with the reports: then it is kept which report told an attempt, and which attempts are new. */
  private hasFiles = false;
  private readonly reportOf = new Map<string, string>();
  private readonly fresh = new Set<string>();
  /** Tries of a test told by earlier reports of this delivery. */
  private readonly earlier = new Map<number, { report: string; before: number; most: number }>();
  private readonly touched = new Set<string>();
  /** Attempts that passed and were judged with evidence of their own: what is known of others grew by them. */
  readonly passed: string[] = [];
  /** Attempts that came as packs. */
  private readonly brought: string[] = [];
  private masker!: Masker;
  /** The project's rules for stacks, read once for all of a delivery. */
  private frames!: FrameRules;
  private lastTold = 0;

  constructor(
    private readonly id: string,
    private readonly tools: IntakeTools,
  ) {}

  async run(sources: readonly Source[], fields: IntakeFields): Promise<IntakeResult> {
    const { store } = this.tools;
    this.masker = store.rules.masker(fields.secrets ?? []);
    this.result.intakeId = this.id;
    this.frames = store.rules.frames();
    store.intakes.begin(this.id, Date.now());
    let gathered: Gathered[] = [];
    try {
      gathered = await gather(sources, (name, message) => this.trouble(name, null, message));
      const reports = gathered.filter(({ kind }) => kind === 'junit' || kind === 'dotnet' || kind === 'tap');
      const packs = gathered.filter(({ kind }) => kind === 'zip');
      const loose = gathered.filter((one) => !reports.includes(one) && !packs.includes(one));
      this.hasFiles = loose.length > 0;
      for (const one of packs) await this.pack(one.source);
      for (const report of reports) this.report(report, fields);
      this.tellRecorded();
      const runId = this.result.runId ?? (loose.length ? this.knownRun(fields.run) : undefined);
      const files = await this.readLooseFiles(loose, fields);
      if (files.length && !runId)
        for (const { name } of files)
          this.unmatched(
            name,
            'no report came with it and there is no run yet it could belong to; give it together with a report, or name the run',
          );
      else if (files.length && runId) {
        this.result.runId = runId;
        if (!reports.length) store.intakes.of(this.id, runId, false);
        const placed = await placeLoose(
          {
            ...this.tools,
            id: this.id,
            runId,
            attachments: this.attachments,
            reportOf: this.reportOf,
            fresh: this.fresh,
            spaced: new Map(),
            tell: (doing, done, of) => this.tell(doing, done, of, true),
            trouble: (name, message) => this.trouble(name, null, message),
          },
          files,
          fields.zoneMinutes,
        );
        this.result.attached += placed.attached;
        this.result.unmatched.push(...placed.waiting);
        for (const attempt of placed.touched) this.touched.add(attempt);
      }
      await this.judgeTouched();
      // Counted here and before it is called read, so that the server's own thread finds it done.
      if (this.result.runId) store.runs.counted(this.result.runId);
      store.intakes.end(this.id, 'done', this.result);
      return this.result;
    } catch (error) {
      store.intakes.undo(this.id);
      throw error;
    } finally {
      for (const { source } of gathered) source.close();
    }
  }

  private tell(doing: string, done: number, of: number | null, always = false): void {
    const now = Date.now();
    if (!always && now - this.lastTold < 200) return;
    this.lastTold = now;
    this.tools.progress({ doing, done, of });
  }

  private trouble(name: string, line: number | null, message: string): void {
    if (this.result.problems.length < mostProblems)
      this.result.problems.push({ name: this.masker.text(name), line, message: this.masker.text(message) });
  }

  private became(name: string, fate: FileFate, says: string): void {
    this.tools.became?.({ name: this.masker.text(name), fate, says: this.masker.text(says) });
  }

  private unmatched(name: string, why: string): void {
    this.became(name, 'left out', why);
    this.result.unmatched.push({ name: this.masker.text(name), why: this.masker.text(why) });
  }

  /** Attempts that were recorded before are those that these reports tell of, where that is sure. */
  private tellRecorded(): void {
    const { store } = this.tools;
    const by = (id: string): string => this.reportOf.get(id) ?? (this.reportName || earlierReport);
    const { told, shared, doubtful } = tellRecorded(store, this.id, by, [...this.brought]);
    for (const id of shared) this.touched.add(id);
    for (const { recorded, reported } of told) {
      this.touched.add(recorded);
      this.touched.delete(reported);
      this.fresh.delete(reported);
      const attached = this.attachments.get(reported);
      this.attachments.delete(reported);
      if (attached) this.attachments.set(recorded, attached);
      const report = this.reportOf.get(reported);
      if (report !== undefined) this.reportOf.set(recorded, report);
    }
    if (doubtful) this.trouble(this.reportName, null, `${plural(doubtful, 'recorded attempt')} ${ofSeveral}`);
  }

  /** A run named by name or id. Without a name: the newest, for files that came without a report. */
  private knownRun(named: string | undefined): string | undefined {
    const { store } = this.tools;
    if (!named) return store.runs.newest(1)[0]?.id;
    return store.runs.get(named)?.id ?? store.runs.named(this.masker.text(named), Date.now());
  }

  private async pack(source: Source): Promise<void> {
    try {
      const { id, isNew } = await restorePack(this.tools.store, whole(source, 512 * 1024 ** 2), this.masker, this.id);
      const attempt = this.tools.store.attempts.get(id)!;
      this.result.runId ??= attempt.runId;
      this.became(source.name, isNew ? 'report' : 'known', isNew ? 'an evidence pack' : 'its attempt is here already');
      if (isNew) {
        this.result.attempts++;
        this.touched.add(id);
        this.brought.push(id);
      }
    } catch (error) {
      this.trouble(source.name, null, (error as Error).message);
    }
  }

  private report({ source, kind }: Gathered, fields: IntakeFields): void {
    this.reportName = this.masker.text(source.name);
    const writer = new ReportWriter((cases) => this.commit(cases, source, fields));
    const tell = (): void => this.tell(`Reading ${source.name}`, writer.count, null);
    if (kind === 'junit' || kind === 'dotnet') {
      const Reader = kind === 'junit' ? JunitReader : DotnetReader;
      const reader = new Reader((one) => {
        writer.take(one);
        tell();
      }, fields);
      try {
        for (const text of texts(source)) reader.write(text);
        reader.close();
      } catch (error) {
        this.trouble(source.name, null, (error as Error).message);
      }
      for (const { line, message } of reader.problems) this.trouble(source.name, line, message);
    } else {
      const suite = source.name
        .split('/')
        .at(-1)!
        .replace(/\.(?:tap|txt|log|out)$/i, '');
      const { cases, problems } = readTap(whole(source, 256 * 1024 ** 2).toString('utf8'), suite);
      for (const one of cases) writer.take(one);
      for (const { line, message } of problems) this.trouble(source.name, line, message);
    }
    writer.flush();
    this.tell(`Reading ${source.name}`, writer.count, writer.count, true);
    if (writer.count) this.became(source.name, 'report', plural(writer.count, 'attempt'));
    if (writer.count === 0) this.unmatched(source.name, 'it is a report without a single case');
  }

  private commit(cases: readonly ReportCase[], source: Source, fields: IntakeFields): void {
    this.tools.store.inPieces(cases, (raw) => this.addCase(raw, source, fields));
  }

  private addCase(one: ReportCase, source: Source, fields: IntakeFields): void {
    const { store } = this.tools;
    const { masker } = this;
    const labels = fields.labels ?? {};
    const report = this.reportName;
    const zone = fields.zoneMinutes ?? one.zone ?? undefined;
    const startedAt = [one.startedAt, source.modifiedAt].find(isTime) ?? Date.now();
    const runId = (this.result.runId ??= this.beginRun(one, source, fields, startedAt));
    const test = {
      suite: masker.text(one.suite).slice(0, 1000),
      title: masker.text(one.title).slice(0, 2000),
      ...(one.file ? { file: masker.text(one.file) } : {}),
    };
    const recorded = this.recordedAttempt(runId, test.title, one.number);
    if (recorded) {
      // The same attempt was recorded here: the report tells its outcome and what the test wrote.
      const output = outputEvents(one, recorded.startedAt, masker, zone);
      store.intakes.touches(this.id, recorded.id);
      store.intakes.adds(this.id, recorded.id, output);
      if (recorded.outcome === 'unreported')
        store.attempts.outcome(recorded.id, one.outcome, masker.text(one.message), masker.text(one.stack));
      store.events.write(recorded.id, output);
      this.attachments.set(recorded.id, one.attachments);
      this.touched.add(recorded.id);
      return;
    }
    const environment = environmentOf(one, source.name, labels);
    const key = `${test.suite}\n${test.title}\n${environment.browser}\n${environment.width ?? ''}`;
    const number = this.numberOf(source.name, key, one.number);
    const id = attemptId(runId, { ...one, ...test }, JSON.stringify(environment), number);
    const properties = Object.fromEntries(Object.entries(one.properties).slice(0, 40));
    const told: AttemptLabels = {
      ...(Object.keys(labels).length ? { labels: masker.value(labels) } : {}),
      ...(one.worker ? { worker: masker.text(one.worker) } : {}),
      ...(one.startedAt === undefined ? { untimed: true } : {}),
      ...(one.startTold === 'summed' ? { summed: report } : {}),
      ...(one.zone === undefined || fields.zoneMinutes !== undefined ? {} : { zone: one.zone }),
      ...(Object.keys(properties).length ? { properties: masker.value(properties) } : {}),
      ...(tagsOf(one).length ? { tags: masker.value(tagsOf(one)) } : {}),
    };
    const message = masker.text(one.message);
    const stack = masker.text(one.stack);
    const events = one.output || one.errorOutput ? outputEvents(one, startedAt, masker, zone) : [];
    const isNew = store.attempts.add({
      id,
      runId,
      test,
      number,
      outcome: one.outcome,
      environment,
      startedAt,
      durationMs: Math.min(longestMs, Math.max(0, one.durationMs ?? 0)),
      message,
      stack,
      labels: told,
      analysisVersion,
      intakeId: this.id,
    });
    if (one.attachments.length) this.attachments.set(id, one.attachments);
    if (this.hasFiles) this.reportOf.set(id, report);
    if (!isNew) return;
    if (this.hasFiles) this.fresh.add(id);
    this.result.attempts++;
    if (events.length) store.events.write(id, events);
    // Judged when all of the delivery is here: what ran beside it, and what it is held against, may come after it.
    if (isFailure(one.outcome) || events.length) this.touched.add(id);
  }

  /** The number of a try over all reports of this delivery: those of a later report come after those of an earlier one. */
  private numberOf(report: string, test: string, number: number): number {
    const key = numberHash(test);
    const known = this.earlier.get(key);
    const before = known === undefined ? 0 : known.report === report ? known.before : known.most;
    this.earlier.set(key, { report, before, most: Math.max(known?.most ?? 0, before + number) });
    return before + number;
  }

  private recordedAttempt(run: string, title: string, number: number): Attempt | undefined {
    if (!this.recorded) {
      this.recorded = new Map();
      if (!this.madeRun)
        for (const one of this.tools.store.attempts.ofRun(run))
          if (one.source !== 'imported') this.recorded.set(`${one.test.title}\n${one.number}`, one);
    }
    if (this.recorded.size === 0) return undefined;
    // Reports write the names of the suites before the title.
    const short = title.split(/ > | › | \/ /).at(-1)!;
    return this.recorded.get(`${title}\n${number}`) ?? this.recorded.get(`${short}\n${number}`);
  }
  private recorded: Map<string, Attempt> | undefined;
  private madeRun = false;

  private beginRun(one: ReportCase, source: Source, fields: IntakeFields, startedAt: number): string {
    const { store } = this.tools;
    const existing = fields.run ? store.runs.get(fields.run) : undefined;
    if (existing) {
      store.intakes.of(this.id, existing.id, false);
      return existing.id;
    }
    const folder = source.name.includes('/') ? source.name.split('/')[0]! : undefined;
    const base = folder ?? source.name.replace(/\.[a-z]+$/i, '');
    // Without times the content tells one report from the next.
    const mark =
      one.startedAt === undefined
        ? createHash('sha256').update(source.read(0, 65_536)).digest('hex').slice(0, 6)
        : isoOf(startedAt).slice(0, 19).replace('T', ' ');
    const name = this.masker.text(fields.run ?? `${base.replace(/\.(?:zip|tar|tgz|gz)$/gi, '')} · ${mark}`);
    const known = store.runs.byName(name);
    const id =
      known ??
      store.runs.named(name, startedAt, {
        commit: one.properties.commit ?? fields.labels?.commit,
        branch: one.properties.branch ?? fields.labels?.branch,
      });
    this.madeRun = !known;
    store.intakes.of(this.id, id, !known);
    return id;
  }

  private async readLooseFiles(loose: readonly Gathered[], fields: IntakeFields): Promise<LooseFile[]> {
    const { store } = this.tools;
    const day = this.result.runId ? store.runs.get(this.result.runId)?.startedAt : undefined;
    const options = {
      ...(fields.zoneMinutes === undefined ? {} : { zoneMinutes: fields.zoneMinutes }),
      ...(day === undefined ? {} : { day }),
    };
    const files: LooseFile[] = [];
    const shelf = new Shelf();
    for (const [i, { source, kind }] of loose.entries()) {
      this.tell('Reading files', i, loose.length);
      if (kind === 'empty') this.unmatched(source.name, 'it is empty');
      else if (kind === 'unknown') this.unmatched(source.name, 'it is of no kind we read');
      else if (kind === 'xml')
        this.unmatched(source.name, 'it is XML, but no test report: there is no testsuite in it');
      else {
        try {
          const file = readLoose(source, kind, this.masker, options);
          for (const { line, message } of file.problems.slice(0, 5)) this.trouble(file.name, line, message);
          // Put away at once; holding them all would be what a large delivery weighs.
          files.push(await kept(store, file, shelf));
          this.became(source.name, 'read', kindWords[file.kind]);
        } catch (error) {
          this.unmatched(source.name, (error as Error).message);
        }
      }
    }
    return files;
  }

  /**
   * Judges what this delivery brought or added to, as everything is judged. Those that passed come first: the others are
   * held against them.
   */
  private async judgeTouched(): Promise<void> {
    const { store } = this.tools;
    const priors = priorsOf(store.families.confirmed(), Date.now());
    const commits = new Map<string, string | null | undefined>();
    const commitOf = (run: string): string | null | undefined => {
      if (!commits.has(run)) commits.set(run, store.runs.get(run)?.commit);
      return commits.get(run);
    };
    const order = store.attempts.judgingOrder([...this.touched]);
    let done = 0;
    // Nobody is held against those without evidence of their own: they are written many at a time.
    const bare: { id: string; analysed: Analysed }[] = [];
    const writeBare = (): void =>
      store.inPieces(bare.splice(0), ({ id, analysed }) => store.settle(id, analysed.analysis, analysed.words));
    for (const id of order) {
      this.tell('Analysing', done++, order.length);
      const attempt = store.attempts.get(id);
      if (!attempt || attempt.state === 'recording') continue;
      // Evidence that goes on after what the report counted is part of the attempt.
      if (attempt.durationMs === 0) {
        const last = eventsOf(store.events.recorded(id), 'console').at(-1)?.at ?? 0;
        if (last) {
          store.intakes.touches(this.id, id);
          store.attempts.lasted(id, last);
        }
      }
      const analysed = await analyseStored(store, toJudge(attempt, commitOf(attempt.runId), store.rules.get()), priors);
      if (analysed.analysis.sketch?.until) {
        store.together(() => store.settle(id, analysed.analysis, analysed.words));
        if (attempt.outcome === 'passed' && this.passed.length < mostTold) this.passed.push(id);
        continue;
      }
      bare.push({ id, analysed });
      if (bare.length >= mostBare) writeBare();
    }
    writeBare();
  }
}

/** Keeps what was read of a file in the store; its events are let go when others need the room. */
async function kept(store: Store, read: ReadFile, shelf: Shelf): Promise<LooseFile> {
  const { bytes, problems: _, events, ...file } = read;
  const blob = await store.blobs.keep(bytes, file.mime);
  const held = new HeldEvents(events);
  held.shelve(shelf, bytes.length, () => eventsKept(store, { kind: file.kind, blob }));
  return { ...file, blob, events: held };
}

export const newIntakeId = (): string => newId('i');
