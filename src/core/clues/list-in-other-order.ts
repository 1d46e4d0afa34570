import { said } from '../evidence/labels.ts';
import type { Clue, ClueKind } from './clue.ts';
import { acting, momentOf, type Scene } from './scene.ts';

/** Fewer parts than this are rather a name than a list. */
const leastListed = 3;

/**
 * Where no attempt is known to pass: the test put its expectation together from what the page itself showed, and what
 * was found holds the same things in another order. It does not expect the wrong things; they stand wrong.
 */
export const listInOtherOrder: ClueKind = {
  code: 'list-in-other-order',
  about: 'What was found holds the very things that were expected, in another order than the test worked out.',
  find: (scene) => {
    const { failure, passing } = scene;
    const moment = momentOf(scene);
    const { expected, actual } = failure ?? {};
    if (!moment || !expected || !actual || passing.length > 0 || !isListInOtherOrder(expected, actual)) return [];
    const parts = partsOf(expected);
    const sorted = inOrder(parts);
    if (!sorted) return readBefore(scene, parts, moment);
    const asText = inOrder(partsOf(actual), true);
    return [
      {
        ...moment,
        summary: `The ${parts.length} numbers expected stand ${sorted}, and those found are the same in another order${asText ? `: they are ordered as text` : ''}`,
        strength: asText ? 1 : 0.9,
      },
    ];
  },
};

function readBefore(
  scene: Scene,
  parts: readonly string[],
  { evidence }: { evidence: string[] },
): Omit<Clue, 'code'>[] {
  const { failing, steps } = scene;
  const acted = failing && steps.findLast((step) => step.at < failing.at && acting(step));
  if (!acted) return [];
  const read = new Map(
    steps.filter(({ at }) => at < acted.at).map((step) => [String(step.data.result).trim(), step] as const),
  );
  if (parts.some((part) => !read.has(part))) return [];
  return [
    {
      at: acted.at,
      summary: `All ${parts.length} things it expected had been read in the page before ${said(acted.data.label)}; only their order is another`,
      strength: 0.9,
      evidence: [...evidence, acted.id, read.get(parts[0]!)!.id],
    },
  ];
}

/** Whether two texts list the same things one after the other, in another order. */
export function isListInOtherOrder(expected: string, actual: string): boolean {
  const [a, b] = [partsOf(expected), partsOf(actual)];
  return (
    a.length >= leastListed &&
    a.length === b.length &&
    a.some((part, i) => part !== b[i]) &&
    [...a].sort().join('\n') === [...b].sort().join('\n')
  );
}

/** Parts between commas and the like; numbers may have nothing but spaces between them. */
function partsOf(text: string): string[] {
  const parts = text.split(/[,;|\n]/).map((part) => part.trim());
  const spaced = text.trim().split(/\s+/);
  return parts.length === 1 && spaced.every(isNumber) ? spaced : parts;
}

const isNumber = (text: string): boolean => /^[^\d\s]?\d+(?:[.,]\d+)?$/.test(text);
const valueOf = (text: string): number => Number(text.replace(/^\D/, '').replace(',', '.'));

/** In which order numbers stand, where they all are numbers. @param asText as words are ordered, letter by letter */
function inOrder(parts: readonly string[], asText = false): string | undefined {
  if (!parts.every(isNumber)) return undefined;
  const rising = (a: string, b: string): boolean => (asText ? a <= b : valueOf(a) <= valueOf(b));
  const all = (holds: (a: string, b: string) => boolean): boolean =>
    parts.every((part, i) => i === 0 || holds(parts[i - 1]!, part));
  if (all(rising)) return 'from low to high';
  return all((a, b) => rising(b, a)) ? 'from high to low' : undefined;
}
