import { endOf, type ConsoleEvent } from '../evidence/event.ts';
import { linePattern } from '../evidence/usual.ts';
import { quote, shorten } from '../evidence/labels.ts';
import { cameFrom } from '../contrast/sketch.ts';
import { thrownKey } from '../ordinary/ordinary.ts';
import type { ClueKind } from './clue.ts';
import { gaveUpAt, ofPassing } from './scene.ts';
import { weighed } from './usualness.ts';

/** The application threw, and nothing caught it, before the attempt failed. */
export const exceptionThrown: ClueKind = {
  code: 'exception-thrown',
  about: 'The application threw something that nothing caught, which it does not in passing attempts.',
  find: (scene) => {
    // What is thrown while a page is put away, after the last command, made none of them fail.
    const end = Math.min(gaveUpAt(scene) ?? scene.until, ...scene.steps.slice(-1).map(endOf));
    const usual = new Set(scene.passing.flatMap((one) => one.console.map(({ key, from }) => thrownKey(key, from))));
    return scene.console
      .filter((line) => (line.kind === 'exception' || line.data.uncaught) && line.at <= end && !usual.has(keyOf(line)))
      .map((line) => {
        const { strength, words } = weighed(scene, scene.passing.length ? 1 : 0.85, (ordinary, id) =>
          ordinary.thrown(linePattern(line), placeOf(line), id),
        );
        return {
          at: line.at,
          summary: `The application threw ${quote(shorten(line.data.text, 60))}${words || (scene.passing.length ? `, ${ofPassing(0, scene.passing.length)}` : '')}`,
          strength,
          evidence: [line.id, ...(scene.failing ? [scene.failing.id] : [])],
        };
      })
      .sort((a, b) => b.strength - a.strength)
      .slice(0, 2);
  },
};

const placeOf = ({ data }: ConsoleEvent): string | undefined => (data.source ? cameFrom(data.source) : undefined);
const keyOf = (line: ConsoleEvent): string => thrownKey(linePattern(line), placeOf(line));
