import { fisherExact } from '../stats/fisher.ts';
import { beyond, roundedDose, searchDose, type DoseSearch } from './dose.ts';
import { atDose, doseOf, kindsOfStressor, stressKey, words, type Stressor } from './stressor.ts';
import { Tallies, type Tally, type Tried } from './tally.ts';

/**
 * The search for what provokes a failure. It keeps no state: what to try next follows from the arms and from what was
 * tried, so that it goes on where it was after whatever ended it.
 *
 * Stated before it begins: the drill is played as it is at least three times, and again after every seventh other trial;
 * an arm counts as provoking at four of four, or four fifths of more, and when a chance of under one in twenty would do the
 * same as it is; an arm is left after three trials without the failure.
 */
export interface Arm {
  stressors: readonly Stressor[];
  /** Why it is tried. */
  why: string;
  /** How likely it seemed before anything was tried, from 0 to 1. */
  prior: number;
}

export interface Plan {
  /** Tried on their own, each at its doses. */
  arms: readonly Arm[];
  /** Other requests of the application, for asking whether it matters which is held back. */
  elsewhere: readonly string[];
  /** Trials in all. */
  trials: number;
}

/** `fitting`: trials that showed where a drill came sooner than its test; they count for nothing else. */
export type Phase = 'fitting' | 'as it is' | 'looking' | 'smallest set' | 'dose' | 'sure' | 'elsewhere';

export type Next =
  { stressors: readonly Stressor[]; phase: Phase; why: string } | { wait: true } | { done: true; why: string };

const first = { asItIs: 3, mostAsItIs: 10, every: 8 } as const;
/** An arm is provoking from so many trials on. */
export const least = 4;
const often = 0.8;
const byChance = 0.05;
/** So unlikely by chance a finding has to be once it is told: many arms were tried. */
const byChanceAtLast = 0.01;
/** Trials without the failure after which an arm is left. */
const mostVain = 3;
/** What lies beside an arm that brings the failure now and then seems as likely as this. */
const nowAndThen = 0.6;
/** Trials that show how often it comes at the dose that was found. */
const forSure = 8;
/** Answers that are held back one by one, where all together bring it. */
const mostNarrowed = 8;
/** Other requests that are held back in its place, and trials of each. */
const others = { most: 2, each: 2 } as const;

/** What to try next. */
export function nextTrial(plan: Plan, tried: readonly Tried[]): Next {
  const tallies = new Tallies(tried);
  const asItIs = tallies.under([]);
  const begun = tried.filter(({ verdict }) => verdict !== 'lost').length;
  if (begun >= plan.trials)
    return asItIs.pending || tried.some(({ verdict }) => verdict === 'pending')
      ? { wait: true }
      : { done: true, why: `all ${plan.trials} trials were played` };
  const plain = asItIs.n + asItIs.pending;
  if (plain < first.asItIs) return { stressors: [], phase: 'as it is', why: 'how often it fails by itself' };
  if (asItIs.n < first.asItIs) return { wait: true };
  if (asItIs.other === asItIs.n)
    return {
      done: true,
      why: 'as it is, every trial fails otherwise: mend the drill, or start what it is played against',
    };
  if (isAlways(asItIs)) {
    if (asItIs.n >= least) return { done: true, why: 'it fails by itself' };
    return { stressors: [], phase: 'as it is', why: 'it may fail by itself' };
  }
  const found = provokingArm(plan, tallies);
  if (found) return afterFound(plan, tallies, found);
  if (plain < first.mostAsItIs && begun >= plain * first.every)
    return { stressors: [], phase: 'as it is', why: 'whether it still passes by itself' };
  return look(plan, tallies);
}

/** Whether it fails by itself. */
export const isAlways = ({ n, same }: Tally): boolean => n >= first.asItIs && same / n >= 0.9;

/** Whether trials under something bring the failure, and trials as it is do not. */
export function provokes(under: Tally, asItIs: Tally, chance = byChance): boolean {
  if (under.n < least || under.same / under.n < often) return false;
  const more = under.same / under.n > asItIs.same / Math.max(1, asItIs.n);
  return more && fisherExact(under.same, under.n, asItIs.same, asItIs.n) < chance;
}

/** Whether it provokes beyond the doubt that comes with trying many. */
export const surelyProvokes = (under: Tally, asItIs: Tally): boolean => provokes(under, asItIs, byChanceAtLast);

/** The doses beside one that brings the failure now and then, as shares of it: the right one may lie on either side. */
const beside = [0.6, 1.6] as const;

/** The arms of the plan, and what they lead to. */
function armsSoFar({ arms }: Plan, tallies: Tallies): Arm[] {
  const asItIs = tallies.under([]);
  const further = arms.flatMap(({ stressors, prior }): Arm[] => {
    const [only] = stressors;
    const dose = only && doseOf(only);
    const tally = tallies.under(stressors);
    if (stressors.length !== 1 || !dose || tally.same === 0 || tally.n < 2 || provokes(tally, asItIs)) return [];
    return beside.map((share) => ({
      stressors: [atDose(only, roundedDose(dose * share, kindsOfStressor[only.kind].dose!.unit))],
      why: `${words(only)}: it failed so ${tally.same} of ${tally.n} times`,
      // Behind what is being tried again, before what only seemed likely.
      prior: Math.max(prior, nowAndThen),
    }));
  });
  const known = new Set(arms.map(({ stressors }) => stressKey(stressors)));
  return [...arms, ...further.filter(({ stressors }) => !known.has(stressKey(stressors)))];
}

/** The likeliest of the arms that provoke. */
function provokingArm(plan: Plan, tallies: Tallies): Arm | undefined {
  const asItIs = tallies.under([]);
  return armsSoFar(plan, tallies)
    .filter(({ stressors }) => provokes(tallies.under(stressors), asItIs))
    .sort((a, b) => b.prior - a.prior)[0];
}

function look(plan: Plan, tallies: Tallies): Next {
  const arms = armsSoFar(plan, tallies);
  const open = arms
    .map((arm) => ({ arm, tally: tallies.under(arm.stressors) }))
    .filter(({ tally }) => tally.n + tally.pending - tally.same < mostVain || tally.same * 2 > tally.n)
    .map((one) => ({ ...one, worth: worth(one.arm, one.tally) }))
    .sort((a, b) => b.worth - a.worth);
  const [best] = open;
  if (best && best.worth > 0) return { stressors: best.arm.stressors, phase: 'looking', why: best.arm.why };
  return open.some(({ tally }) => tally.pending > 0) ||
    arms.some(({ stressors }) => tallies.under(stressors).pending > 0)
    ? { wait: true }
    : { done: true, why: 'everything that could be tried was tried' };
}

/** What brought the failure is tried again first; what did not loses most of its worth; untried arms keep what they seemed. */
function worth({ prior }: Arm, { n, same, pending }: Tally): number {
  if (same > 0) return same / n + 1 / (n + pending + 1) + (pending === 0 ? 1 : 0.2);
  return prior * 0.15 ** (n + pending);
}

function afterFound(plan: Plan, tallies: Tallies, found: Arm): Next {
  const narrow = narrowed(plan, tallies, found);
  if ('next' in narrow) return narrow.next;
  const { arm } = narrow;
  const smaller = smallestSet(arm.stressors, tallies);
  if ('next' in smaller) return smaller.next;
  const { stressors } = smaller;
  const [only] = stressors;
  const dose = stressors.length === 1 && only && searchDose(only, tallies);
  if (dose && dose.wait) return { wait: true };
  if (dose && dose.next)
    return { stressors: [dose.next], phase: 'dose', why: `it begins between ${dose.low} and ${dose.high}` };
  const sure = settledOn(stressors, dose || undefined, tallies);
  const { n, pending } = tallies.under(sure);
  if (n + pending < forSure) return { stressors: sure, phase: 'sure', why: 'how often it fails then' };
  if (n < forSure) return { wait: true };
  const asItIs = tallies.under([]);
  if (!surelyProvokes(tallies.under(sure), asItIs)) {
    if (asItIs.n + asItIs.pending < first.mostAsItIs)
      return { stressors: [], phase: 'as it is', why: 'whether it fails as often by itself' };
    if (asItIs.n < first.mostAsItIs) return { wait: true };
    return { done: true, why: 'what seemed to bring it brings it hardly oftener than it comes by itself' };
  }
  for (const other of elsewhere(plan, sure)) {
    const tally = tallies.under(other);
    if (isDecided(tally)) continue;
    if (tally.pending > 0) return { wait: true };
    return { stressors: other, phase: 'elsewhere', why: 'whether it matters which' };
  }
  return { done: true, why: 'it was found, with its dose' };
}

/** Whether trials agree, or a further one has decided. */
const isDecided = ({ n, same }: Tally): boolean => n > others.each || (n === others.each && (same === 0 || same === n));

/** Where all answers together bring it, one of them may alone: the first that does stands for all. */
function narrowed({ elsewhere: requests }: Plan, tallies: Tallies, arm: Arm): { arm: Arm } | { next: Next } {
  const [only] = arm.stressors;
  if (arm.stressors.length !== 1 || only?.kind !== 'slow-line') return { arm };
  const asItIs = tallies.under([]);
  for (const request of requests.slice(0, mostNarrowed)) {
    const stressors: Stressor[] = [{ kind: 'hold', request, ms: only.ms }];
    const tally = tallies.under(stressors);
    const why = 'which of the answers it is';
    if (provokes(tally, asItIs)) return { arm: { stressors, why, prior: arm.prior } };
    // One vain trial lets a request go: in the whole the failure came four times of four.
    if (tally.n > tally.same) continue;
    return { next: tally.pending > 0 ? { wait: true } : { stressors, phase: 'smallest set', why } };
  }
  return { arm };
}

/** What of several is needed: each is left out in turn. */
function smallestSet(
  stressors: readonly Stressor[],
  tallies: Tallies,
): { stressors: readonly Stressor[] } | { next: Next } {
  let needed = stressors;
  for (const one of stressors) {
    if (needed.length < 2) break;
    const without = needed.filter((other) => other !== one);
    const { n, same, pending } = tallies.under(without);
    if (n < 2)
      return {
        next:
          n + pending < 2
            ? { stressors: without, phase: 'smallest set', why: 'whether all of it is needed' }
            : { wait: true },
      };
    if (same === n) needed = without;
  }
  return { stressors: needed };
}

/** The set at the dose that is kept: just beyond the edge, or where that fails less often, what was found first. */
function settledOn(
  stressors: readonly Stressor[],
  dose: DoseSearch | undefined,
  tallies: Tallies,
): readonly Stressor[] {
  const [only] = stressors;
  if (!dose || !only) return stressors;
  const near = beyond(only, dose);
  const { n, same } = tallies.under([near]);
  if (n - same <= Math.max(0, n * 0.1)) return [near];
  return bolder(only, dose, tallies) ?? stressors;
}

/** How much further than the dose at which it was found it is tried, where that fails less often than nearly always. */
const bolderBy = 1.5;
const nearlyAlways = 0.95;

/** Found near the edge it comes most of the time: a step further it may come always. */
function bolder(found: Stressor, { low, high }: DoseSearch, tallies: Tallies): readonly Stressor[] | undefined {
  const own = tallies.under([found]);
  if (own.n < forSure || own.same / own.n >= nearlyAlways) return undefined;
  const unit = kindsOfStressor[found.kind].dose!.unit;
  const further = [atDose(found, roundedDose(doseOf(found)! * (high > low ? bolderBy : 1 / bolderBy), unit))];
  const there = tallies.under(further);
  return there.n === 0 || there.same / there.n >= own.same / own.n ? further : undefined;
}

/** The same held back elsewhere. */
function elsewhere({ elsewhere: requests }: Plan, stressors: readonly Stressor[]): Stressor[][] {
  const [only] = stressors;
  if (stressors.length !== 1 || !only || !('request' in only)) return [];
  return requests
    .filter((request) => request !== only.request)
    .slice(0, others.most)
    .map((request) => [{ ...only, request }]);
}

/** What the search came to: the set that was settled on, its dose, and whether it matters which request it is. */
export interface Settled {
  arm: Arm;
  stressors: readonly Stressor[];
  dose?: DoseSearch;
  /** True: the same elsewhere does nothing; undefined where that was not asked or means nothing. */
  specific?: boolean;
}

export function settled(plan: Plan, tallies: Tallies): Settled | undefined {
  const found = provokingArm(plan, tallies);
  if (!found) return undefined;
  const narrow = narrowed(plan, tallies, found);
  const arm = 'arm' in narrow ? narrow.arm : found;
  const smaller = smallestSet(arm.stressors, tallies);
  const needed = 'stressors' in smaller ? smaller.stressors : arm.stressors;
  const dose = needed.length === 1 ? searchDose(needed[0]!, tallies) : undefined;
  const stressors = settledOn(needed, dose, tallies);
  const asked = elsewhere(plan, stressors).map((one) => tallies.under(one));
  const known = asked.length > 0 && asked.every(isDecided);
  return {
    arm,
    stressors,
    ...(dose && doseOf(needed[0]!) !== undefined ? { dose } : {}),
    ...(known ? { specific: asked.every(({ n, same }) => same * 2 < n) } : {}),
  };
}
