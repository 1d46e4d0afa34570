import { parseDrill } from '../../core/drill/parse.ts';
import type { Drill } from '../../core/drill/drill.ts';
import type { Series } from '../../core/records.ts';
import { carriedOver, isAfter, isPlain, nextSide, type ProofTrial, type Side } from '../../core/trials/proof.ts';
import { nextTrial, type Phase, type Plan } from '../../core/trials/search.ts';
import type { Stressor } from '../../core/trials/stressor.ts';
import type { Store } from '../store/store.ts';

/** A trial to be played next, a moment to wait for others, or the end. */
export type Turn =
  | {
      number: number;
      stressors: readonly Stressor[];
      /** Another drill than that of the series. */
      drill?: Drill;
      phase?: Phase | Side;
      why?: string;
      /** How long each of its lines takes is kept. */
      timed?: boolean;
    }
  | 'wait'
  | 'over';

/** What a series plays next, from what it has played. */
export interface Turns {
  next(): Turn;
  /** So many trials were lost with the place they were played in. */
  missed(many: number): void;
  /** Whether how a trial ended decides what comes next. */
  readonly needsVerdicts: boolean;
}

/** Trials under one and the same thing. Those of a place that was lost are played again elsewhere. */
export function plainTurns(store: Store, { id, trials, stressors, untilFails }: Series): Turns {
  let number = 0;
  let wanted = trials;
  const failed = (): boolean => store.trials.of(id).some(({ verdict }) => verdict === 'same' || verdict === 'other');
  return {
    needsVerdicts: untilFails,
    next: () => (number < wanted && !(untilFails && failed()) ? { number: ++number, stressors } : 'over'),
    missed: (many) => (wanted += many),
  };
}

/** What a search tries next, from all that it has tried. */
export function searchTurns(store: Store, series: Series, plan: Plan): Turns {
  const { minutes } = series.search!.budget;
  const from = store.trials.of(series.id);
  // Time that a server was not there for does not count.
  const spent = from.length ? from.at(-1)!.beganAt - from[0]!.beganAt : 0;
  const until = Date.now() - spent + minutes * 60_000;
  const over = (why: string): 'over' => {
    const kept = store.drills.series(series.id)!.search!;
    store.drills.setSearch(series.id, { ...kept, ended: why });
    return 'over';
  };
  let number = from.length;
  return {
    needsVerdicts: true,
    next: () => {
      if (Date.now() > until) return over(`${minutes} minutes were over`);
      const turn = nextTrial(plan, store.trials.tried(series.id));
      if ('done' in turn) return over(turn.why);
      return 'wait' in turn ? 'wait' : { number: ++number, ...turn };
    },
    missed: () => undefined,
  };
}

/** The drill before and after a remedy, with and without the provocation, in turns. @param drill the one before */
export function proofTurns(store: Store, series: Series, drill: Drill): Turns {
  const { drill: after } = parseDrill(series.proof!.text);
  if (!after) throw new Error('the drill with the remedy can no longer be read');
  const { stressors, trials } = series;
  let number = store.trials.of(series.id).length;
  return {
    needsVerdicts: true,
    next: () => {
      const turn = nextSide({ stressors, trials }, proofTrials(store, series.id));
      if ('done' in turn) return 'over';
      if ('wait' in turn) return 'wait';
      const { side } = turn;
      return {
        number: ++number,
        phase: side,
        drill: isAfter(side) ? after : drill,
        timed: isPlain(side),
        stressors: isPlain(side) ? [] : isAfter(side) ? carriedOver(stressors, drill, after) : stressors,
      };
    },
    missed: () => undefined,
  };
}

/** The trials of a proof as they stand. */
export function proofTrials(store: Store, series: string): ProofTrial[] {
  const took = new Map(store.attempts.ofSeries(series).map(({ id, durationMs }) => [id, durationMs]));
  return store.trials.of(series).map(({ phase, verdict, attemptId, lineTimes }) => {
    const ms = attemptId === null ? undefined : took.get(attemptId);
    return { side: phase as Side, verdict, ...(ms == null ? {} : { ms }), ...(lineTimes ? { lineTimes } : {}) };
  });
}
