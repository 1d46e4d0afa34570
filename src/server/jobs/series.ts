import type { Logger } from 'pino';
import { trouble } from '../../core/background.ts';
import { parseDrill } from '../../core/drill/parse.ts';
import type { Drill } from '../../core/drill/drill.ts';
import type { Detail, ProofKept, SearchKept, Series } from '../../core/records.ts';
import { armsFor } from '../../core/trials/arms.ts';
import type { Plan } from '../../core/trials/search.ts';
import type { Stressor } from '../../core/trials/stressor.ts';
import type { Verdict } from '../../core/trials/tally.ts';
import type { Place } from '../../browser/place.ts';
import type { Places } from '../../browser/places.ts';
import type { Permits } from '../../browser/player/permits.ts';
import { cannotStress } from '../../browser/stress/can.ts';
import type { Changes } from '../changes.ts';
import { RecordingSink } from '../ingest/recorded.ts';
import { patiently } from '../store/patience.ts';
import type { Store } from '../store/store.ts';
import type { AnalysisJobs } from './analysis.ts';
import { GivenFiles, sweepGiven } from './drill-files.ts';
import { permitsOf, type PermitSettings } from './drill-permits.ts';
import { fitDrill, type FitWork } from './fit-drill.ts';
import { groundsOf } from './grounds.ts';
import { keptAnswers } from './kept-answers.ts';
import { TrialRunner, type Played } from './trial-runner.ts';
import { plainTurns, proofTurns, searchTurns, type Turn, type Turns } from './turns.ts';
import { verdictOf } from './verdict.ts';

/** A command under way may end by itself for so long after a series was stopped; then its browser is ended. */
const stopGraceMs = 3000;
/** So many that failed alike are judged anew by what a search has shown. */
const mostKin = 60;
/** A place that waits for another's trial looks again so often, ms. */
const lookAgainMs = 40;

const asItIs = { stressors: [], phase: 'as it is', why: 'how often it fails by itself' } as const;

/** What a series is asked for. */
export interface SeriesOrder {
  drillId: string;
  /** Places, by name; trials are shared among them. */
  engine: string;
  trials: number;
  stressors: Stressor[];
  /** It ends with its first failure. */
  untilFails?: boolean;
  detail?: Detail;
  search?: Omit<SearchKept, 'plan' | 'ended'>;
  proof?: ProofKept;
}

/** Plays series one after the other: trials that ran beside each other in one place would starve each other. */
export class SeriesJobs {
  private readonly stopping = new Set<string>();
  /** End the browsers of a series that is played. */
  private readonly playing = new Map<string, () => void>();
  private running: Promise<void> = Promise.resolve();
  private closed = false;
  /** Series that are played or wait for it. */
  waiting = 0;

  constructor(
    private readonly store: Store,
    private readonly analysis: AnalysisJobs,
    private readonly changes: Changes,
    private readonly places: Places,
    private readonly keepsBodies: boolean,
    private readonly settings: PermitSettings,
    private readonly log: Logger,
  ) {
    sweepGiven(store.home);
    store.drills.stopUnfinished();
    store.trials.loseUnfinished();
    // What was searched for, or was to be proven, goes on.
    setImmediate(() => {
      for (const series of store.drills.unfinished()) this.enqueue(series);
    });
  }

  /** What the drills of a series may reach. @throws Unconfirmed where somebody has to look at one first */
  private permits({ drillId, stressors }: Pick<SeriesOrder, 'drillId' | 'stressors'>): Permits {
    const before = stressors.flatMap((one) => (one.kind === 'drill-before' && one.drill ? [one.drill] : []));
    const drills = [drillId, ...before].flatMap((id) => this.store.drills.get(id) ?? []);
    return permitsOf(drills, this.settings);
  }

  /** @throws Unconfirmed where the drill comes from elsewhere and nobody has allowed what it types */
  start(order: SeriesOrder): Series {
    const { drillId, engine, trials, stressors, untilFails = false, detail = 'standard', search, proof } = order;
    this.permits(order);
    const run = this.store.runs.named(`Trials of ${drillId}, ${new Date().toISOString()}`, Date.now(), {
      kind: 'trials',
    });
    const series = this.store.drills.addSeries({
      drillId,
      runId: run,
      engine,
      trials,
      text: this.store.drills.get(drillId)?.text ?? '',
      stressors,
      untilFails,
      detail,
      search: search ?? null,
      proof: proof ?? null,
    });
    this.enqueue(series);
    return series;
  }

  private enqueue(series: Series): void {
    this.waiting++;
    this.running = this.running
      .then(() => this.play(series))
      .catch((error: Error) => {
        this.log.error({ series: series.id, problem: error.message }, 'a series failed');
        return patiently(() => this.end(series.id, 'failed', error.message));
      })
      .catch((error: unknown) => trouble('ending a series', error, series.id))
      .finally(() => this.waiting--);
  }

  /** Stops after the command under way; what ran is kept. */
  stop(id: string): void {
    const state = this.store.drills.series(id)?.state;
    if (state !== 'waiting' && state !== 'running') return;
    this.stopping.add(id);
    if (state === 'waiting') this.end(id, 'stopped');
    // A browser that hangs in the middle of a command would never hear of it.
    else setTimeout(() => this.playing.get(id)?.(), stopGraceMs).unref();
  }

  private end(id: string, state: 'done' | 'stopped' | 'failed', problem?: string): void {
    this.store.drills.setSeries(id, state, problem ?? null);
    this.changes.tell({ type: 'series', id });
  }

  private async play(series: Series): Promise<void> {
    const stopped = (): boolean => this.closed || this.stopping.has(series.id);
    if (stopped()) return;
    const { drill } = parseDrill(series.text ?? '');
    if (!drill) throw new Error('the drill of this series can no longer be read');
    const places = [...new Set(series.engine.split(','))].map((name) => {
      const place = this.places.named(name);
      if (!place) throw new Error(this.places.noSuch(name));
      return place;
    });
    this.store.drills.setSeries(series.id, 'running');
    this.changes.tell({ type: 'series', id: series.id });
    const problems = await this.trials(series, drill, places, stopped);
    // A search or a proof that a closing server breaks off goes on with the next.
    if (this.closed && (series.search || series.proof) && !this.stopping.has(series.id)) return;
    this.end(series.id, stopped() ? 'stopped' : 'done', problems);
    if (series.search && !stopped()) this.bear(series);
  }

  /** What a search has shown bears on all that failed so in that test: they are judged anew. */
  private bear({ drillId }: Series): void {
    const id = this.store.drills.get(drillId)?.attemptId;
    const attempt = id ? this.store.attempts.get(id) : undefined;
    if (!attempt?.familyId) return;
    const kin = this.store.attempts
      .ofFamily(attempt.familyId, mostKin)
      .filter(({ test }) => test.id === attempt.test.id);
    for (const one of new Set([attempt.id, ...kin.map((other) => other.id)])) this.analysis.settle(one);
  }

  /** What the search tries: drawn up once, and kept. */
  private planOf(series: Series, drill: Drill, places: readonly Place[]): Plan {
    const search = series.search!;
    if (search.plan) return search.plan;
    const grounds = groundsOf(this.store, this.store.drills.get(series.drillId)!, drill);
    const { allow, forbid, budget } = search;
    const plan: Plan = {
      arms: armsFor({
        ...grounds,
        now: Date.now(),
        can: (one) => places.every(({ name, abilities }) => !cannotStress(name, abilities, [one])),
        ...(allow ? { allow } : {}),
        ...(forbid ? { forbid } : {}),
      }),
      elsewhere: grounds.requests.filter(({ own, type }) => own && type !== 'document').map(({ key }) => key),
      trials: budget.trials,
    };
    this.store.drills.setSearch(series.id, { ...search, plan });
    return plan;
  }

  /** @returns what became of places that were lost on the way; nothing when none was */
  private async trials(
    series: Series,
    drill: Drill,
    places: readonly Place[],
    stopped: () => boolean,
  ): Promise<string | undefined> {
    const files = new GivenFiles(this.store, series.id, series.drillId);
    const played: Played = {
      id: series.id,
      drill,
      detail: series.detail,
      stopped,
      sink: new RecordingSink(this.store, this.analysis, this.changes, this.keepsBodies, [], {
        id: series.id,
        runId: series.runId,
        test: { suite: 'trials', title: drill.title },
      }),
      textOf: (id) => this.store.drills.get(id)?.text,
      kept: keptAnswers(this.store),
      given: files.instead,
      permits: this.permits(series),
    };
    const runners = places.map((place) => new TrialRunner(place, played));
    this.playing.set(series.id, () => runners.forEach((runner) => runner.end()));
    try {
      if (series.search && !series.search.plan) {
        const [first] = runners;
        const play: FitWork['play'] = (number, text) =>
          this.one(series, first!, { number, ...asItIs, drill: text }, stopped);
        played.drill = await fitDrill({ store: this.store, series, drill, play, stopped });
      }
      const turns = series.search
        ? searchTurns(this.store, series, this.planOf(series, played.drill, places))
        : series.proof
          ? proofTurns(this.store, series, drill)
          : plainTurns(this.store, series);
      const lost = (await Promise.all(runners.map((runner) => this.work(series, runner, turns, stopped)))).flatMap(
        (problem) => problem ?? [],
      );
      if (lost.length === runners.length && lost.length > 0) throw new Error(lost.join('; '));
      return lost.length ? lost.join('; ') : undefined;
    } finally {
      this.playing.delete(series.id);
      await Promise.all(runners.map((runner) => runner.close()));
      files.close();
    }
  }

  /** One place plays trial after trial. @returns why it gave up, when it did */
  private async work(
    series: Series,
    runner: TrialRunner,
    turns: Turns,
    stopped: () => boolean,
  ): Promise<string | undefined> {
    const { trials } = this.store;
    /** Trials lost one after the other here: if the place turns out to be lost, they are played elsewhere. */
    let inRow = 0;
    const settling: Promise<void>[] = [];
    while (!stopped()) {
      const turn = turns.next();
      if (turn === 'over') break;
      if (turn === 'wait') {
        await new Promise((done) => setTimeout(done, lookAgainMs));
        continue;
      }
      const { number } = turn;
      await this.begin(series, runner, turn);
      try {
        const lineTimes: number[] | undefined = turn.timed ? [] : undefined;
        const id = await runner.play({ ...turn, ...(lineTimes ? { lineTimes } : {}) });
        inRow = id === undefined ? inRow + 1 : 0;
        const settled = this.settle(series, number, id, stopped, lineTimes);
        // A search and a proof need to know; a series plays on meanwhile.
        if (turns.needsVerdicts) await settled;
        else settling.push(settled.then(() => undefined));
      } catch (error) {
        await patiently(() => trials.end(series.id, number, 'lost', null));
        turns.missed(inRow + 1);
        return `${runner.place.name} was lost in trial ${number}: ${(error as Error).message}`;
      } finally {
        this.changes.tell({ type: 'series', id: series.id });
      }
    }
    await Promise.all(settling);
    return undefined;
  }

  private async begin(series: Series, runner: TrialRunner, turn: Exclude<Turn, string>): Promise<void> {
    const { number, stressors, phase, why } = turn;
    const begun = {
      number,
      stressors: [...stressors],
      place: runner.place.name,
      ...(phase ? { phase } : {}),
      ...(why ? { why } : {}),
    };
    await patiently(() => this.store.trials.begin(series.id, begun));
  }

  /** Plays one trial, and waits for how it ended. @throws Error when no browser can be had there any more */
  private async one(
    series: Series,
    runner: TrialRunner,
    turn: Exclude<Turn, string>,
    stopped: () => boolean,
  ): Promise<{ id: string | undefined; verdict: Verdict }> {
    await this.begin(series, runner, turn);
    try {
      const id = await runner.play(turn);
      return { id, verdict: await this.settle(series, turn.number, id, stopped) };
    } catch (error) {
      await patiently(() => this.store.trials.end(series.id, turn.number, 'lost', null));
      throw error;
    } finally {
      this.changes.tell({ type: 'series', id: series.id });
    }
  }

  /** Keeps how a trial ended, once its failure has been read. */
  private async settle(
    series: Series,
    number: number,
    id: string | undefined,
    stopped: () => boolean,
    lineTimes?: number[],
  ): Promise<Verdict> {
    try {
      const verdict = id === undefined ? 'lost' : await verdictOf(this.store, series, id, stopped);
      await patiently(() => this.store.trials.end(series.id, number, verdict, id ?? null, lineTimes));
      return verdict;
    } catch (error) {
      trouble('keeping how a trial ended', error, series.id);
      return 'lost';
    }
  }

  async close(): Promise<void> {
    this.closed = true;
    await Promise.race([this.running, new Promise((done) => setTimeout(done, 3000))]);
  }
}
