import { fisherExact } from '../stats/fisher.ts';
import type { Shift } from '../stats/hodges-lehmann.ts';
import { median } from '../stats/median.ts';
import { wilson, type Rate } from '../stats/wilson.ts';
import { printStatement } from '../drill/print.ts';
import type { Drill } from '../drill/drill.ts';
import { remedyCost } from './remedy-cost.ts';
import { stepsOf } from './stressed-drill.ts';
import type { Stressor } from './stressor.ts';
import type { Verdict } from './tally.ts';

/**
 * The proof of a remedy: the drill before and after it, under what provokes the failure and with nothing wrong, in turns,
 * so that what the machine and the server do meanwhile falls on all sides alike. Like the search it keeps no state.
 *
 * Stated before it begins: so many trials with the remedy as were asked for, a quarter as many of each other side, five at
 * least and with nothing wrong ten. It ends early when the remedy has failed three times and in three tenths of its
 * trials, when it fails twice with nothing wrong, and when what provoked it brings no failure in four.
 */
export type Side = 'before' | 'after' | 'plain before' | 'plain after';

export const sides: readonly Side[] = ['before', 'after', 'plain before', 'plain after'];
export const isAfter = (side: Side): boolean => side === 'after' || side === 'plain after';
export const isPlain = (side: Side): boolean => side === 'plain before' || side === 'plain after';

export interface ProofPlan {
  stressors: readonly Stressor[];
  /** Trials with the remedy under the provocation. */
  trials: number;
  /** The drill without and with the remedy: then it is told what it costs. */
  drills?: { before: Drill; after: Drill };
}

export interface ProofTrial {
  side: Side;
  verdict: Verdict;
  /** How long it took, ms; absent while it is not known. */
  ms?: number;
  /** How long each line of its drill took, ms; of trials with nothing wrong. */
  lineTimes?: number[];
}

const share = 0.25;
const least = 5;
/** With nothing wrong also what the remedy costs is to be told, and pages take their time as they like. */
const leastPlain = 10;
const failing = { most: 3, share: 0.3, plain: 2 } as const;
const unprovoked = 4;
const byChance = 0.05;
/** The rate that a proof is held to, and how sure it has to be. */
const under = { rate: 0.01, sure: 0.05 } as const;

/** How many trials each side gets. Without a provocation there are no plain ones beside. */
export function wantedOf({ stressors, trials }: ProofPlan): Record<Side, number> {
  const few = Math.min(trials, Math.max(least, Math.ceil(trials * share)));
  const plain = stressors.length ? Math.min(trials, Math.max(leastPlain, few)) : 0;
  return { before: stressors.length ? few : trials, after: trials, 'plain before': plain, 'plain after': plain };
}

export interface SideTally {
  done: number;
  /** Before: the failure that is looked for. After: any failure, since a remedy that fails otherwise mends nothing. */
  failed: number;
  otherwise: number;
  pending: number;
  medianMs?: number;
}

export function tallyOf(side: Side, tried: readonly ProofTrial[]): SideTally {
  const own = tried.filter((one) => one.side === side);
  const count = (verdict: Verdict): number => own.filter((one) => one.verdict === verdict).length;
  const [same, otherwise] = [count('same'), count('other')];
  const times = own.flatMap(({ verdict, ms }) => (verdict === 'passed' && ms !== undefined ? [ms] : []));
  return {
    done: same + otherwise + count('passed'),
    failed: same + (isAfter(side) ? otherwise : 0),
    otherwise,
    pending: count('pending'),
    ...(times.length ? { medianMs: median(times) } : {}),
  };
}

export type NextSide = { side: Side } | { wait: true } | { done: true };

/** Which side is played next: the one that lags most behind what it is to get. */
export function nextSide(plan: ProofPlan, tried: readonly ProofTrial[]): NextSide {
  if (endsEarly(plan, tried)) return { done: true };
  const wanted = wantedOf(plan);
  const open = sides
    .map((side) => {
      const { done, pending } = tallyOf(side, tried);
      return { side, pending, played: done + pending, wanted: wanted[side] };
    })
    .filter((one) => one.played < one.wanted);
  const [next] = open.sort((a, b) => a.played / a.wanted - b.played / b.wanted);
  if (next) return { side: next.side };
  return tried.some(({ verdict }) => verdict === 'pending') ? { wait: true } : { done: true };
}

function endsEarly(plan: ProofPlan, tried: readonly ProofTrial[]): boolean {
  const after = tallyOf('after', tried);
  if (after.failed >= failing.most && after.failed >= after.done * failing.share) return true;
  const plain = tallyOf('plain after', tried);
  if (plain.failed >= failing.plain && tallyOf('plain before', tried).failed === 0) return true;
  return isUnprovoked(plan, tallyOf('before', tried));
}

/** What provokes brings the failure nearly always: none of four says that it no longer does. */
const isUnprovoked = (plan: ProofPlan, { done, failed }: Pick<SideTally, 'done' | 'failed'>): boolean =>
  failed === 0 && done >= (plan.stressors.length ? Math.min(unprovoked, plan.trials) : wantedOf(plan).before);

export type ProofVerdict = 'mends' | 'lessens' | 'fails' | 'breaks' | 'not provoked' | 'unsure';

export interface ProofSide {
  done: number;
  failed: number;
  otherwise: number;
  rate: Rate;
  medianMs: number | null;
}

export interface Proof {
  before: ProofSide;
  after: ProofSide;
  plain: { before: ProofSide; after: ProofSide };
  /** What the remedy costs a test that would have passed, ms, with 95 % certainty; null where either side was not timed. */
  cost: Shift | null;
  verdict: ProofVerdict;
  words: string;
  /** What it takes to be surer. */
  more: { trials: number; words: string };
}

/** What trials have shown of a remedy. */
export function proofOf(plan: ProofPlan, tried: readonly ProofTrial[]): Proof {
  const side = (name: Side): ProofSide => {
    const { done, failed, otherwise, medianMs } = tallyOf(name, tried);
    return { done, failed, otherwise, rate: wilson(failed, done), medianMs: medianMs ?? null };
  };
  const [before, after] = [side('before'), side('after')];
  const plain = { before: side('plain before'), after: side('plain after') };
  const cost = costOf(plan, tried);
  const verdict = judged(plan, before, after, plain);
  return { before, after, plain, cost, verdict, words: said[verdict](before, after, plain), more: moreFor(after) };
}

function costOf({ drills }: ProofPlan, tried: readonly ProofTrial[]): Shift | null {
  if (!drills) return null;
  const took = (side: Side): number[][] =>
    tried.flatMap((one) => (one.side === side && one.verdict === 'passed' && one.lineTimes ? [one.lineTimes] : []));
  const shift = remedyCost(drills.before, drills.after, { before: took('plain before'), after: took('plain after') });
  return shift ? { point: Math.round(shift.point), low: Math.round(shift.low), high: Math.round(shift.high) } : null;
}

function judged(plan: ProofPlan, before: ProofSide, after: ProofSide, plain: Proof['plain']): ProofVerdict {
  const wanted = wantedOf(plan);
  if (plain.after.failed >= failing.plain && plain.before.failed === 0) return 'breaks';
  if (isUnprovoked(plan, before)) return 'not provoked';
  if (after.failed >= failing.most && after.failed >= after.done * failing.share) {
    const p = fisherExact(before.failed, before.done, after.failed, after.done);
    return p < byChance && after.rate.point < before.rate.point ? 'lessens' : 'fails';
  }
  if (after.done < wanted.after || before.done === 0) return 'unsure';
  const differs = fisherExact(before.failed, before.done, after.failed, after.done) < byChance;
  if (!differs || after.rate.point >= before.rate.point) return after.failed === 0 ? 'unsure' : 'fails';
  return after.failed === 0 ? 'mends' : 'lessens';
}

const of = ({ failed, done }: ProofSide): string => `${failed} of ${done}`;
const otherwise = ({ otherwise: n }: ProofSide): string => (n ? `, ${n} of them otherwise` : '');

const said: Record<ProofVerdict, (before: ProofSide, after: ProofSide, plain: Proof['plain']) => string> = {
  mends: (before, after) => `It failed ${of(before)} times before, and ${of(after)} times with the remedy`,
  lessens: (before, after) =>
    `It failed ${of(before)} times before, and still ${of(after)} times with the remedy${otherwise(after)}: it lessens the failure, and does not mend it`,
  fails: (before, after) =>
    `It failed ${of(before)} times before, and ${of(after)} times with the remedy${otherwise(after)}: this does not mend it`,
  breaks: (_before, _after, plain) =>
    `With nothing wrong it failed ${of(plain.after)} times with the remedy${otherwise(plain.after)}, and ${of(plain.before)} times without: the remedy itself breaks the test`,
  'not provoked': (before) =>
    `The failure did not come in ${before.done} trials without the remedy, so nothing can be shown of it: search for what provokes it again`,
  unsure: (before, after) =>
    before.done + after.done === 0
      ? 'Nothing has been played yet'
      : `It failed ${of(before)} times before, and ${of(after)} times with the remedy: too few to tell`,
};

/** Trials without a failure that show a rate to be under a bound: 1 − sure^(1/n) falls below it. */
const enough = Math.ceil(Math.log(under.sure) / Math.log(1 - under.rate));

function moreFor({ done, failed }: ProofSide): Proof['more'] {
  if (failed > 0)
    return { trials: 0, words: 'It fails with the remedy, so no number of trials shows that it does not' };
  const trials = Math.max(0, enough - done);
  return {
    trials,
    words: trials
      ? `to be 95 % sure that it fails under 1 % takes ${trials} more without a failure`
      : 'It is 95 % sure that it fails under 1 %',
  };
}

/**
 * Stressors that name a step by its number, for a drill that a remedy has put lines into: the same step, wherever it
 * stands now.
 */
export function carriedOver(stressors: readonly Stressor[], before: Drill, after: Drill): Stressor[] {
  return stressors.map((one) => {
    if (one.kind !== 'late-step') return one;
    const [was, now] = [before, after].map((drill) => stepsOf(drill).map(printStatement)) as [string[], string[]];
    const line = was[one.step - 1];
    if (line === undefined) return one;
    // The so-manieth of its like, counted from the end: a remedy puts its lines before.
    const place = was.slice(one.step).filter((other) => other === line).length;
    const like = now.flatMap((other, i) => (other === line ? [i] : []));
    const found = like.at(-1 - place) ?? Math.max(0, now.length - (was.length - one.step) - 1);
    return { ...one, step: found + 1 };
  });
}
