import { said } from '../evidence/labels.ts';
import { arrivedAt, endOf } from '../evidence/event.ts';
import { requestKey, type SketchStep } from '../contrast/sketch.ts';
import type { ClueKind } from './clue.ts';
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

/** What was read when it failed could still change: a request was under way that passing attempts had answered by then. */
export const readWhileUnderWay: ClueKind = {
  code: 'read-while-under-way',
  about: 'A request was under way when the value was read that the check then failed on.',
  find: (scene) => {
    const step = failingStep(scene);
    if (!scene.failing || !step || timedOut(scene) || waitOf(scene) || scene.failing.data.action === 'press') return [];
    const told = parted(scene, 'in-flight').find((one) => stepAt(scene, one.slot) === step && one.direction === 'has');
    const open = scene.network.find(
      (one) =>
        one.data.own &&
        one.data.type !== 'document' &&
        one.at < scene.failing!.at &&
        arrivedAt(one) > endOf(scene.failing!) + 20,
    );
    if (!told && !open) return [];
    const answer = told ? scene.network.find(({ id }) => id === told.shown[0]?.event) : open;
    if (answer && cameToNothing(scene, endOf(answer))) return [];
    const key = told?.subject ?? requestKey(open!);
    const { strength, words } = weighed(
      scene,
      told ? 0.95 : 0.7,
      (ordinary, id) => rarer(ordinary.stepsDuring(key, 'read', id), lateness(ordinary, scene, key, id)),
      { ...typed(scene, key), waits: true },
    );
    const event = told?.shown[0]?.event ?? open!.id;
    const alone = withoutIt(scene, step, key);
    return [
      {
        at: step.at,
        summary: told
          ? `${said(step.label)} came while ${key} was under way; it had answered ${ofPassing(told.passing[1] - told.passing[0], told.passing[1])}${words}`
          : `${said(step.label)} came while ${key} was under way${words}${alone}`,
        strength: alone ? Math.round(strength * 30) / 100 : strength,
        evidence: [step.events[0]!, event],
      },
    ];
  },
};

/** Others that failed as this one did, at the same step, had that answer by then: it is not why they all failed. */
function withoutIt({ kin = [] }: Scene, step: SketchStep, key: string): string {
  const same = kin.flatMap(({ steps }) => steps.findLast(({ sig }) => sig === step.sig) ?? []);
  const without = same.filter(({ inFlight }) => inFlight[key] === undefined).length;
  return without > same.length / 2 ? `; ${without} of ${same.length} others that failed so had it by then` : '';
}
