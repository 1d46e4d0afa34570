import { said } from '../evidence/labels.ts';
import type { ClueKind } from './clue.ts';
import { ofPassing, parted, stepAt } from './scene.ts';
import { commoner } from '../ordinary/ordinary.ts';
import { typed } from './relevance.ts';
import { beyondJitter, lateness, pulse, weighed } from './usualness.ts';

const acts = new Set(['press', 'type', 'keys', 'clear']);

/** Something was pressed or typed while a request was under way that in passing attempts had been answered by then. */
export const actedWhileUnderWay: ClueKind = {
  code: 'acted-while-under-way',
  about: 'A request that passing attempts had answered was still under way when the test acted.',
  find: (scene) =>
    parted(scene, 'in-flight')
      .filter((one) => one.direction === 'has' && acts.has(stepAt(scene, one.slot)?.action ?? ''))
      .slice(0, 2)
      .map((one) => {
        const step = stepAt(scene, one.slot)!;
        const key = one.subject;
        const { strength, words } = weighed(
          scene,
          (one.passing[1] >= 3 ? 0.95 : 0.75) * beyondJitter(step.inFlight[key] ?? 0),
          (ordinary, id) => commoner(ordinary.askedAgain(key, pulse, id), lateness(ordinary, scene, key, id)),
          { ...typed(scene, key), before: true },
        );
        return {
          at: step.at,
          until: step.at + (step.inFlight[key] ?? 0),
          summary: `${said(step.label)} came ${step.inFlight[key] ?? 0} ms before ${key} answered; it had answered ${ofPassing(one.passing[1] - one.passing[0], one.passing[1])}${words}`,
          strength,
          evidence: [step.events[0]!, ...(one.shown[0] ? [one.shown[0].event] : [])],
        };
      }),
};
