import type { Share } from '../ordinary/ordinary.ts';
import { requestKey, type Sketch, type SketchRequest, type SketchStep } from '../contrast/sketch.ts';
import { endOf } from '../evidence/event.ts';
import { failingStep, passingAt, type Scene } from './scene.ts';

/** What adorns a page or only tells of it: no text, element or handler waits for its answer. */
const ornaments: ReadonlySet<string> = new Set([
  'image',
  'font',
  'media',
  'ping',
  'beacon',
  'manifest',
  'track',
  'preflight',
  'cspviolationreport',
  'stylesheet',
]);

/** What a clue about the answer of a mere ornament is still worth: a page may hang on anything. */
const ornamentWorth = 0.15;
/** Of one about an answer after which nothing came in passing attempts that the step looks at. */
const unfedWorth = 0.45;
/** What is left of one about something that passing attempts did without. */
const needlessWorth = 0.1;

export const isOrnament = (type: string | undefined): boolean => ornaments.has((type ?? '').toLowerCase());

/** A page shows what came within this of an answer, ms. */
export const shownWithinMs = 250;
/** So soon after an answer it is that answer, whatever else came. */
const shownAtOnceMs = 60;
/** A wait sees it by then, however seldom it looks, ms. */
const seenWithinMs = 450;
/** Clocks of a page and of its requests differ by so much, ms. */
export const clocksMs = 10;
/** So unlikely by chance that it is none: a few dozen kinds of requests are asked about. */
const mostChance = 0.03;
/** Fewer passing attempts in which it was so may be chance. */
const mostlyFed = 0.6;

/** How passing attempts came to do the step that failed here. */
interface Ways {
  /** How many did it. */
  of: number;
  /** By key of a request: in how many it had been answered well by then. */
  answered: Map<string, number>;
  /** In how many it is known when what the step looked at came to be what it was. */
  known: number;
  /** By key of a request: in how many that was right after its answer. */
  fed: Map<string, number>;
  /** By key of a request: how likely each of these was by chance, for how often the page asks it, summed up. */
  byChance: Map<string, number>;
  /** By signature of a step: in how many it came right upon that act of the test, and how likely that was by chance, summed up. */
  upon: Map<string, { label: string; hits: number; byChance: number }>;
}

/** What a test does to a page, after which the page may show something. */
const acts: ReadonlySet<string> = new Set(['open', 'navigate', 'press', 'type', 'clear', 'keys', 'dialog']);

/** Many clues ask this of one scene; it is found out once. */
const found = new WeakMap<Scene, Ways>();

function waysOf(scene: Scene): Ways {
  let ways = found.get(scene);
  if (!ways) found.set(scene, (ways = findWays(scene)));
  return ways;
}

function findWays(scene: Scene): Ways {
  const failed = failingStep(scene);
  const same = failed ? passingAt(scene, failed).filter(({ step }) => !step.error) : [];
  const ways: Ways = {
    of: same.length,
    answered: new Map(),
    known: 0,
    fed: new Map(),
    byChance: new Map(),
    upon: new Map(),
  };
  for (const { attempt, step } of same) {
    const answered = attempt.requests.filter(
      ({ until, ended }) => until <= step.until + clocksMs && (ended === '2xx' || ended === '3xx'),
    );
    countEach(ways.answered, answered);
    const came = step.since ?? (step.polls ? step.until : undefined);
    if (came === undefined) continue;
    ways.known++;
    const before = attempt.requests.filter(({ until }) => until <= came + clocksMs);
    // Of several answers the last is what it waited for.
    const last = before
      .filter(({ type }) => !isOrnament(type))
      .reduce<SketchRequest | undefined>((best, one) => (best && best.until >= one.until ? best : one), undefined);
    const within = step.since === undefined ? Math.min(seenWithinMs, paceOf(step) + shownWithinMs) : shownWithinMs;
    const after = before.filter((one) => came - one.until <= (one === last ? within : shownAtOnceMs));
    countEach(ways.fed, after);
    for (const key of new Set(after.map((one) => one.key))) {
      const answers = attempt.requests.filter((one) => one.key === key).length;
      // What comes again and again is near to anything.
      const chance = Math.min(1, (answers * within) / Math.max(1, attempt.until));
      ways.byChance.set(key, (ways.byChance.get(key) ?? 0) + chance);
    }
    countAct(ways.upon, attempt, step, came, within);
  }
  return ways;
}

/** Counts the last act of the test before something came, where that came right upon it. */
function countAct(upon: Ways['upon'], { steps, until }: Sketch, step: SketchStep, came: number, within: number): void {
  const act = steps.findLast((one) => acts.has(one.action) && !one.error && one.at <= came && one.at < step.at);
  if (!act || came > act.until + within) return;
  const known = upon.get(act.sig) ?? { label: act.label, hits: 0, byChance: 0 };
  known.hits++;
  known.byChance += Math.min(1, (act.until + within - act.at) / Math.max(1, until));
  upon.set(act.sig, known);
}

/** How far apart the looks of a wait are: what it saw at its end may have been there for so long, ms. */
const paceOf = ({ at, until, polls = 0 }: SketchStep): number => (until - at) / Math.max(1, polls);

/** Whether so many would be near by chance as well, each as likely as they are in the middle. */
const mayBeChance = (hits: number, summed: number): boolean => (summed / hits) ** hits > mostChance;

/** Counts each kind of request once. */
function countEach(counts: Map<string, number>, requests: readonly SketchRequest[]): void {
  for (const key of new Set(requests.map((one) => one.key))) counts.set(key, (counts.get(key) ?? 0) + 1);
}

/**
 * In how many passing attempts the step that failed here had what it needed although an answer was still under way then,
 * had failed, or had not been asked for: what it did without it does not wait for.
 * @param key of a request
 */
export function didWithout(scene: Scene, key: string): Share {
  const { of, answered } = waysOf(scene);
  return { hits: of - (answered.get(key) ?? 0), of };
}

/**
 * Whether, in passing attempts, what the failing step looked at came to be what it was right after an answer of this
 * kind: then that is what it waits for.
 * @returns undefined where too few passing attempts tell, where it may be chance, and of what is not the application's own
 */
export function isFedBy(scene: Scene, key: string): boolean | undefined {
  if (!scene.sketch.requests.some((one) => one.own && one.key === key)) return undefined;
  const { known, fed, byChance } = waysOf(scene);
  const times = fed.get(key) ?? 0;
  if (known < 2) return undefined;
  if (times / known < mostlyFed) return false;
  return mayBeChance(times, byChance.get(key) ?? 0) ? undefined : true;
}

/** The answers that the failing step is known to wait for, with in how many passing attempts it was so; the surest first. */
export function feeding(scene: Scene): { key: string; share: Share }[] {
  const { known, fed } = waysOf(scene);
  return [...fed]
    .filter(([key]) => isFedBy(scene, key) === true)
    .sort((a, b) => b[1] - a[1])
    .map(([key, hits]) => ({ key, share: { hits, of: known } }));
}

/**
 * The act of the test upon which what the failing step looks at came to be what it was in passing attempts.
 * @returns undefined where too few of them tell, or where it may be chance
 */
export function uponAct(scene: Scene): { sig: string; label: string; share: Share } | undefined {
  const { known, upon } = waysOf(scene);
  if (known < 2) return undefined;
  const [best] = [...upon].sort((a, b) => b[1].hits - a[1].hits);
  if (!best) return undefined;
  const [sig, { label, hits, byChance }] = best;
  if (hits / known < mostlyFed || mayBeChance(hits, byChance)) return undefined;
  return { sig, label, share: { hits, of: known } };
}

/** What the page asks for within this of a press was asked for by it, ms. */
const askedWithinMs = 600;

/** Whether the test's last act had the page send something of this kind. */
function askedByAct({ steps, network, failing }: Scene, key: string): boolean {
  const act = steps.findLast(
    ({ at, data }) => at < (failing?.at ?? 0) && !data.error && (data.action === 'press' || data.action === 'keys'),
  );
  return (
    act !== undefined &&
    network.some(
      (one) =>
        one.data.method !== 'GET' &&
        one.at >= act.at &&
        one.at <= endOf(act) + askedWithinMs &&
        requestKey(one) === key,
    )
  );
}

/** The answer that a clue is about. */
export interface Answer {
  key: string;
  type?: string | undefined;
  /** The clue says that the failing step itself waited for it. */
  waits?: boolean;
  /** The clue is about a step before it: what the failing one did without does not count. */
  before?: boolean;
  /** The clue is that it came again and again: such answers are near to everything, and feed nothing by that alone. */
  again?: boolean;
}

/** How much a clue about an answer bears on the step that failed, 0…1, and why where it bears little. */
export function bearing(scene: Scene, { key, type, waits, before }: Answer): { worth: number; words: string } {
  const { hits, of } = before ? { hits: 0, of: 0 } : didWithout(scene, key);
  if (hits > 0)
    return {
      worth: needlessWorth,
      words: `; ${of === 1 ? 'the one passing attempt' : `${hits} of ${of} passing attempts`} did without it`,
    };
  if (waits && !isOrnament(type) && type !== 'document' && !askedByAct(scene, key) && isFedBy(scene, key) === false)
    return { worth: unfedWorth, words: '; nothing shows that the step waits for it' };
  return isOrnament(type)
    ? { worth: ornamentWorth, words: '; nothing the test looks at waits for it' }
    : { worth: 1, words: '' };
}

/** A request of a kind with what it asks for, for {@link bearing}. */
export const typed = ({ sketch }: Scene, key: string): { key: string; type?: string } => {
  const type = sketch.requests.find((one) => one.key === key)?.type;
  return type ? { key, type } : { key };
};
