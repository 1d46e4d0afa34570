import { quote, shorten } from '../evidence/labels.ts';
import type { ClueKind } from './clue.ts';
import { isListInOtherOrder } from './list-in-other-order.ts';
import { momentOf } from './scene.ts';

/** The same thing said in other words: spelling, order, case, punctuation, how a sum is written. */
export const wordingDiffers: ClueKind = {
  code: 'wording-differs',
  about: 'Expected and found say the same in other words or another notation.',
  find: (scene) => {
    const { failure } = scene;
    const moment = momentOf(scene);
    const { expected, actual } = failure ?? {};
    if (!moment || !expected || !actual || expected === actual) return [];
    const how = sameThing(expected, actual);
    // Things in another order are other things: what stands first among them is what a list is for.
    if (!how || isListInOtherOrder(expected, actual)) return [];
    return [
      {
        at: moment.at,
        summary: `${quote(shorten(actual, 32))} and the expected ${quote(shorten(expected, 32))} ${how}`,
        strength: 0.95,
        evidence: moment.evidence,
      },
    ];
  },
};

const words = (text: string): string[] => text.toLowerCase().match(/[\p{L}\p{N}]+/gu) ?? [];
/** Small words that come and go without a change of meaning. */
const small = new Set(['a', 'an', 'the', 'of', 'to', 'in', 'for', 'and', 'your', 'my', 'please']);

/** How two texts say the same; undefined when they do not. */
export function sameThing(expected: string, actual: string): string | undefined {
  const plain = (text: string): string => text.toLowerCase().replace(/[^\p{L}\p{N}]/gu, '');
  if (plain(expected) !== '' && plain(expected) === plain(actual)) return 'differ only in how they are written';
  const [a, b] = [words(expected), words(actual)].map((list) => new Set(list.filter((one) => !small.has(one)))) as [
    Set<string>,
    Set<string>,
  ];
  const letters = [...a].filter((one) => /\p{L}/u.test(one));
  if (letters.length === 0) return undefined;
  const shared = [...a].filter((one) => b.has(one)).length;
  if (shared === a.size && shared === b.size) return 'hold the same words in another order or form';
  return undefined;
}
