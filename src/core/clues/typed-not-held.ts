import { endOf } from '../evidence/event.ts';
import { quote, shorten, targetName } from '../evidence/labels.ts';
import { nameAt } from '../evidence/lifelines.ts';
import type { Clue, ClueKind } from './clue.ts';
import { lineOf } from './scene.ts';

/** How long after the last key a field may still be on its way to what was typed, ms. */
const settleMs = 30;

/** A field holds something else than was typed into it, and no action of the test made it so. */
export const typedNotHeld: ClueKind = {
  code: 'typed-not-held',
  about: 'The field does not hold what was typed into it.',
  find: (scene) =>
    scene.steps.flatMap((step): Omit<Clue, 'code'>[] => {
      const typed = step.data.input;
      if (
        step.data.action !== 'type' ||
        step.data.error ||
        !typed ||
        typed.includes('«masked»') ||
        /[\uE000-\uF8FF]/.test(typed)
      )
        return [];
      const next = scene.steps.find(
        (one) => one.at > step.at && ['type', 'clear', 'open', 'navigate'].includes(one.data.action),
      );
      const end = next?.at ?? Infinity;
      const name = targetName(step.data, lineOf(scene, step) && nameAt(lineOf(scene, step)!, step.at));
      // The field is the one that first reported while it was being typed into; others report of themselves.
      const reports = scene.page.filter(
        (event) => event.kind === 'held-value' && event.at >= step.at && event.at < end,
      );
      const field = reports.find((event) => event.at <= endOf(step) + settleMs)?.data.label;
      const last =
        reports.findLast(
          (event) => event.data.label === field && event.at >= endOf(step) - settleMs && event.data.text !== undefined,
        ) ?? reports.findLast((event) => event.data.label === field);
      if (field === undefined || (!last?.data.text && last?.data.text !== '')) return [];
      if (last.data.text.includes(typed) || last.data.text.includes('«masked»')) return [];
      if (sameDigits(last.data.text, typed)) return [];
      return [
        {
          at: step.at,
          until: last.at,
          summary: `${quote(shorten(typed, 24))} was typed in ${name}, which then held ${last.data.text ? quote(shorten(last.data.text, 24)) : 'nothing'}`,
          strength: 1,
          evidence: [step.id, last.id],
        },
      ];
    }),
};

/** A field may write numbers in its own way: with separators, without leading zeros. */
function sameDigits(held: string, typed: string): boolean {
  const plain = (text: string): string => text.replace(/[^\p{L}\p{N}]/gu, '').toLowerCase();
  return plain(held) !== '' && plain(held) === plain(typed);
}
