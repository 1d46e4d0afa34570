import { quote, shorten } from '../evidence/labels.ts';
import type { ClueKind } from './clue.ts';
import { momentOf } from './scene.ts';

/** Shorter than this, a text begins like another by chance. */
const leastLength = 3;

/** What was found is what was expected with some of it missing. */
export const partOfExpected: ClueKind = {
  code: 'part-of-expected',
  about: 'What was found is the beginning, or a part, of what was expected: something was cut off.',
  find: (scene) => {
    const { kind, expected = '', actual = '' } = scene.failure ?? {};
    const moment = momentOf(scene);
    const [whole, part] = [expected.trim(), actual.trim()];
    if (!moment || kind !== 'assertion' || part.length < leastLength || part.length >= whole.length) return [];
    if (!whole.startsWith(part) && !whole.endsWith(part)) return [];
    return [
      {
        ...moment,
        summary: `${quote(shorten(part, 32))} is ${quote(shorten(whole, 32))} without ${quote(shorten(whole.startsWith(part) ? whole.slice(part.length).trim() : whole.slice(0, -part.length).trim(), 24))}`,
        strength: 0.9,
      },
    ];
  },
};
