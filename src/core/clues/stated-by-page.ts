import { quote, shorten } from '../evidence/labels.ts';
import type { Clue, ClueKind } from './clue.ts';
import { momentOf, type Scene } from './scene.ts';

/** Seen in one failure only, a value may be as steady as any: what was served may differ the next time. */
const strengthOf = ({ kin = [] }: Scene): number => (kin.length > 0 ? 0.9 : 0.45);

/** Shorter texts stand in a page by chance. */
const leastText = 12;

/** Where no attempt is known to pass: the value found is what the page was served with, word for word. */
export const statedByPage: ClueKind = {
  code: 'stated-by-page',
  about:
    'What was found is what the page was served with, word for word, or what an answer holds; nothing was worked out.',
  find: (scene) => steadily(scene, true),
};

/** Where no attempt is known to pass: the value found stands in no page that was served; it was worked out. */
export const workedOut: ClueKind = {
  code: 'worked-out',
  about: 'What was found stands in no page as it was served: the application worked it out.',
  find: (scene) => steadily(scene, false),
};

function steadily(scene: Scene, stated: boolean): Omit<Clue, 'code'>[] {
  const actual = scene.failure?.actual?.trim();
  const moment = momentOf(scene);
  if (!actual || !moment || scene.passing.length > 0) return [];
  // A title is always what its page was served with, the right page or not.
  if (scene.failing && !scene.failing.data.locator && scene.failing.data.action === 'read') return [];
  const answer = statedByAnswer(scene, scene.failure?.expected ?? '', actual);
  if (answer)
    return stated
      ? [
          {
            ...moment,
            summary: `${quote(shorten(actual, 40))} is what the application answered: ${answer.field} is ${answer.value}`,
            strength: strengthOf(scene),
            evidence: [...moment.evidence, answer.event],
          },
        ]
      : [];
  const documents = scene.bodies.filter(({ data }) => data.of === 'response' && /html/.test(data.mime ?? ''));
  if (documents.length === 0) return [];
  const plain = (text: string): string => text.replace(/\s+/g, ' ');
  const served = documents.find(({ data }) => plain(data.text).includes(plain(actual)));
  if (stated ? !served || actual.length < leastText : served || !/\d/.test(actual)) return [];
  return [
    {
      ...moment,
      summary: stated
        ? `${quote(shorten(actual, 40))} is what the page was served with, word for word`
        : `${quote(shorten(actual, 40))} stands in no page as it was served: it was worked out`,
      strength: strengthOf(scene),
      evidence: [...moment.evidence, ...(served ? [served.id] : [])],
    },
  ];
}

/** Most of a body that is looked through for fields. */
const mostBody = 200_000;

/**
 * The number that alone parts what was found from what was expected, where an answer has it in a field called by a word
 * of the sentence: 7 of “up to 7 days” in `limitDays`.
 */
function statedByAnswer(
  { bodies }: Scene,
  expected: string,
  actual: string,
): { field: string; value: string; event: string } | undefined {
  const [mine, theirs] = [tokens(actual), tokens(expected)];
  const apart = mine.flatMap((token, i) => (token === theirs[i] ? [] : [i]));
  const value = mine[apart[0]!];
  if (mine.length !== theirs.length || apart.length !== 1 || !value || !/^\d+(?:[.,]\d+)?$/.test(value))
    return undefined;
  const stems = mine.filter((token) => token.length >= 3 && /^\p{L}+$/u.test(token)).map((token) => token.slice(0, 4));
  for (const { id, data } of bodies) {
    if (data.of !== 'response' || !/json/.test(data.mime ?? '')) continue;
    for (const [, field] of data.text.slice(0, mostBody).matchAll(fieldsHolding(value)))
      if (!counted.test(field!) && stems.some((stem) => field!.toLowerCase().includes(stem)))
        return { field: field!, value, event: id };
  }
  return undefined;
}

/** What a service counts or reckons afresh for each answer: that it says so does not make it a rule. */
const counted = /count|total|sum|free|left|remain|avail|open|price|amount|balance/i;

const tokens = (text: string): string[] => text.toLowerCase().match(/\p{L}+|\d+(?:[.,]\d+)?/gu) ?? [];
const fieldsHolding = (value: string): RegExp => new RegExp(`"(\\w{1,60})":"?${value.replace('.', '\\.')}"?[,}]`, 'g');
