import { quote, shorten } from '../evidence/labels.ts';
import type { ClueKind } from './clue.ts';
import { dateIn } from './date-differs.ts';
import { failingStep, sameInPassing } from './scene.ts';

const time = /\b([01]?\d|2[0-3]):([0-5]\d)\b/;

/** The page shows what time or day it is, and that lies outside of when passing attempts were made. */
export const clockShown: ClueKind = {
  code: 'clock-shown',
  about: 'A date or time shown by the page lies outside those of passing attempts.',
  find: (scene) => {
    const failed = failingStep(scene);
    for (const step of scene.sketch.steps) {
      if (step === failed || step.value === undefined) continue;
      const others = sameInPassing(scene, step).flatMap((one) => one.value ?? []);
      // Something that shows a clock is different each time; with a single value it is just a text.
      if (new Set(others).size < Math.min(3, others.length) || others.length < 3) continue;
      const mine = reading(step.value);
      const theirs = others.flatMap((one) => reading(one) ?? []);
      if (mine === undefined || theirs.length < others.length) continue;
      if (mine >= Math.min(...theirs) && mine <= Math.max(...theirs)) continue;
      return [
        {
          at: step.at,
          summary: `The page showed ${quote(shorten(step.value, 28))}; in passing attempts between ${quote(shorten(others[theirs.indexOf(Math.min(...theirs))]!, 20))} and ${quote(shorten(others[theirs.indexOf(Math.max(...theirs))]!, 20))}`,
          strength: 1,
          evidence: step.events,
        },
      ];
    }
    return [];
  },
};

/** A date or time as a number that grows with it; undefined when a text holds none. */
function reading(text: string): number | undefined {
  const clock = time.exec(text);
  if (clock) return Number(clock[1]) * 60 + Number(clock[2]);
  const date = dateIn(text);
  const parsed = date === undefined ? NaN : Date.parse(`${date} UTC`);
  return Number.isFinite(parsed) ? parsed / 60_000 : undefined;
}
