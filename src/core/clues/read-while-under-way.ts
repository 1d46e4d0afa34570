import { said } from '../evidence/labels.ts';
import { arrivedAt, endOf } from '../evidence/event.ts';
import { requestKey, type SketchStep } from '../contrast/sketch.ts';
import type { Difference } from '../contrast/contrast.ts';
import type { Clue, ClueKind } from './clue.ts';
import { failingStep, lineOf, ofPassing, parted, stepAt, timedOut, waitOf, type Scene } from './scene.ts';
import { typed } from './relevance.ts';
import { rarer } from '../ordinary/ordinary.ts';
import { lateness, weighed } from './usualness.ts';

/** A page that has an answer shows it within a few frames; this leaves room for a busy machine, ms. */
const renderWithinMs = 300;

/** The answer came while somebody still looked, and what had been read stayed what it was: reading later reads the same. */
function cameToNothing(scene: Scene, answered: number): boolean {
  const line = lineOf(scene, scene.failing!);
  if (!line || answered + renderWithinMs > scene.until) return false;
  return !line.segments.some(({ from, kind }) => from > endOf(scene.failing!) && kind !== 'moved');
}

/** More than so many requests under way at once are looked at no further. */
const mostOpen = 8;

function clueOf(
  scene: Scene,
  step: SketchStep,
  key: string,
  event: string | undefined,
  told?: Difference,
): Omit<Clue, 'code'> | undefined {
  const answer = scene.network.find(({ id }) => id === event);
  if (answer && cameToNothing(scene, endOf(answer))) return undefined;
  const { strength, words } = weighed(
    scene,
    told ? 0.95 : 0.7,
    (ordinary, id) => rarer(ordinary.stepsDuring(key, 'read', id), lateness(ordinary, scene, key, id)),
    { ...typed(scene, key), waits: true },
  );
  const alone = told ? '' : withoutIt(scene, step, key);
  const had = told ? `; it had answered ${ofPassing(told.passing[1] - told.passing[0], told.passing[1])}` : '';
  return {
    at: step.at,
    summary: `${said(step.label)} came while ${key} was under way${had}${words}${alone}`,
    strength: alone ? Math.round(strength * 30) / 100 : strength,
    evidence: [step.events[0]!, ...(event ? [event] : [])],
  };
}

/** What was read when it failed could still change: a request was under way that passing attempts had answered by then. */
export const readWhileUnderWay: ClueKind = {
  code: 'read-while-under-way',
  about: 'A request was under way when the value was read that the check then failed on.',
  find: (scene) => {
    const step = failingStep(scene);
    if (!scene.failing || !step || timedOut(scene) || waitOf(scene) || scene.failing.data.action === 'press') return [];
    const told = parted(scene, 'in-flight')
      .filter((one) => stepAt(scene, one.slot) === step && one.direction === 'has')
      .flatMap((one) => clueOf(scene, step, one.subject, one.shown[0]?.event, one) ?? []);
    const open = scene.network
      .filter(
        (one) =>
          one.data.own &&
          one.data.type !== 'document' &&
          one.at < scene.failing!.at &&
          arrivedAt(one) > endOf(scene.failing!) + 20,
      )
      .slice(0, mostOpen)
      .flatMap((one) => clueOf(scene, step, requestKey(one), one.id) ?? []);
    // Of all that is under way, what tells most is what may be to come.
    return [...told, ...open].sort((a, b) => b.strength - a.strength).slice(0, 1);
  },
};

/** Others that failed as this one did, at the same step, had that answer by then: it is not why they all failed. */
function withoutIt({ kin = [] }: Scene, step: SketchStep, key: string): string {
  const same = kin.flatMap(({ steps }) => steps.findLast(({ sig }) => sig === step.sig) ?? []);
  const without = same.filter(({ inFlight }) => inFlight[key] === undefined).length;
  return without > same.length / 2 ? `; ${without} of ${same.length} others that failed so had it by then` : '';
}
