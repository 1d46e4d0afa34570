import type { Sketch, SketchStep } from '../contrast/sketch.ts';
import { duration, quote, said, shorten } from '../evidence/labels.ts';
import { startedBefore } from './asked-for-typed.ts';
import type { Clue, ClueKind } from './clue.ts';
import { ofPassing, passingAt, type Scene } from './scene.ts';

/** One attempt may have been slow to press for any reason. */
const leastPassing = 2;

/**
 * Something was typed, then a choice was pressed that the failed check shows, and the page had not even begun to deal with
 * what was typed, as it had in passing attempts by then: pages wait for a moment until nothing more is typed, and a test
 * may be quicker.
 */
export const actedBeforeReaction: ClueKind = {
  code: 'acted-before-reaction',
  about:
    'What was pressed is what the failed check shows, and the page had not begun to deal with what was typed before; in passing attempts it had.',
  find: (scene) =>
    scene.sketch.steps.flatMap((step): Omit<Clue, 'code'>[] => {
      if (step.action !== 'press' || step.error !== undefined || !isKept(scene, step)) return [];
      const typed = typedBefore(scene.sketch, step);
      if (!typed) return [];
      const others = passingAt(scene, step).flatMap(({ attempt, step: same }) => {
        const before = typedBefore(attempt, same);
        return before ? [reactions(attempt, before.at, same.at)] : [];
      });
      const [first] = others;
      if (!first || others.length < leastPassing) return [];
      const begun = new Set([
        ...reactions(scene.sketch, typed.at, step.until).keys(),
        ...asked(scene, typed.at, step.until),
      ]);
      const missing = [...first].find(([key]) => !begun.has(key) && others.every((one) => one.has(key)));
      if (!missing) return [];
      return [
        {
          at: step.at,
          until: step.until,
          summary: `${said(step.label)} came ${duration(step.at - typed.until)} after ${said(typed.label)}, before ${missing[1]}; ${ofPassing(others.length, others.length)} it had by then`,
          strength: 0.95,
          evidence: [step.events[0]!, typed.events[0]!],
        },
      ];
    }),
};

/** What was pressed is what the check that failed shows. */
const isKept = ({ failure }: Scene, step: SketchStep): boolean =>
  Boolean(failure?.actual && (step.text ?? step.label).includes(failure.actual));

/** The typing that a press follows, with nothing else done in between. */
function typedBefore({ steps }: Sketch, step: SketchStep): SketchStep | undefined {
  const last = steps
    .slice(0, steps.indexOf(step))
    .findLast(({ action }) => action === 'type' || action === 'press' || action === 'keys' || action === 'open');
  return last?.action === 'type' && last.error === undefined && step.at - last.until < startedBefore ? last : undefined;
}

/** What the page said, and which of its requests were answered, in between; by key, in words. */
function reactions({ console, requests }: Sketch, from: number, until: number): Map<string, string> {
  const out = new Map<string, string>();
  for (const line of console)
    if (!line.uncaught && line.level !== 'error' && line.level !== 'warning' && line.at > from && line.at <= until)
      out.set(line.key, `the page said ${quote(shorten(line.text, 40))}`);
  for (const one of requests)
    if (one.own && one.type !== 'document' && one.at > from && one.until <= until)
      out.set(one.key, `it asked for ${one.key}`);
  return out;
}

/** Requests that were begun: what is under way is another matter. */
const asked = ({ sketch }: Scene, from: number, until: number): string[] =>
  sketch.requests.filter((one) => one.at > from && one.at <= until).map(({ key }) => key);
