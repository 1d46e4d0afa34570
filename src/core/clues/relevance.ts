import type { Share } from '../ordinary/ordinary.ts';
import { requestKey, type SketchStep } from '../contrast/sketch.ts';
import { endOf } from '../evidence/event.ts';
import { failingStep, sameInPassing, type Scene } from './scene.ts';

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

/**
 * In how many passing attempts the step that failed here had what it needed although an answer was still under way then,
 * had failed, or had not been asked for: what it did without it does not wait for.
 * @param key of a request
 */
export function didWithout(scene: Scene, key: string, step: SketchStep | undefined = failingStep(scene)): Share {
  const none = { hits: 0, of: 0 };
  if (!step || !scene.against) return none;
  const same = sameInPassing(scene, step).filter((one) => !one.error);
  if (same.length === 0) return none;
  let hits = 0;
  for (const one of same) {
    const attempt = scene.passing.find(({ steps }) => steps.includes(one))!;
    const answered = attempt.requests.some(
      (request) =>
        request.key === key && request.until <= one.until && (request.ended === '2xx' || request.ended === '3xx'),
    );
    if (!answered) hits++;
  }
  return { hits, of: same.length };
}

/** A page shows what came within this of an answer, ms. */
const shownWithinMs = 250;
/** So soon after an answer it is that answer, whatever else came. */
const shownAtOnceMs = 60;
/** A wait that polls sees it by then, ms. */
const seenWithinMs = 450;
/** Fewer passing attempts in which it was so may be chance. */
const mostlyFed = 0.6;

/**
 * Whether, in passing attempts, what the failing step looked at came to be what it was right after an answer of this
 * kind: then that is what it waits for.
 * @returns undefined where too few passing attempts tell
 */
export function isFedBy(
  scene: Scene,
  key: string,
  step: SketchStep | undefined = failingStep(scene),
): boolean | undefined {
  if (!step || !scene.against || !scene.sketch.requests.some((one) => one.own && one.key === key)) return undefined;
  const same = sameInPassing(scene, step).filter((one) => !one.error);
  let [hits, of] = [0, 0];
  for (const one of same) {
    const came = one.since ?? (one.polls ? one.until : undefined);
    if (came === undefined) continue;
    of++;
    const within = one.since === undefined ? seenWithinMs : shownWithinMs;
    const { requests } = scene.passing.find(({ steps }) => steps.includes(one))!;
    // Of several answers the last is what it waited for.
    let last: (typeof requests)[number] | undefined;
    for (const request of requests)
      if (request.until <= came + 10 && !isOrnament(request.type) && request.until > (last?.until ?? -1))
        last = request;
    const right = requests.some(
      (one) => one.key === key && one.until <= came + 10 && came - one.until <= shownAtOnceMs,
    );
    if (right || (last?.key === key && came - last.until <= within)) hits++;
  }
  return of < 2 ? undefined : hits / of >= mostlyFed;
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
