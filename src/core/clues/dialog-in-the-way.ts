import { endOf } from '../evidence/event.ts';
import { quote, said, shorten } from '../evidence/labels.ts';
import type { ClueKind } from './clue.ts';
import { acting, momentOf, ofPassing, type Scene } from './scene.ts';
import { weighed } from './usualness.ts';

/** What an act of the test brings up comes within this of its end, ms. */
const uponMs = 600;

/** Why a dialog that opened at a time is none that the test counts on; nothing where that is not known. */
function oddity(
  { passing, steps }: Scene,
  at: number,
): { strength: number; words: string; evidence: string[] } | undefined {
  if (passing.length >= 2 && passing.every(({ dialogs }) => dialogs.length === 0))
    return { strength: 0.95, words: `, ${ofPassing(0, passing.length)}`, evidence: [] };
  if (passing.length > 0 || steps.some(({ data }) => data.action === 'dialog')) return undefined;
  const act = steps.findLast((step) => acting(step) && step.at <= at && at - endOf(step) <= uponMs);
  return (
    act && { strength: 0.85, words: ` upon ${said(act.data.label)}, and the test answers none`, evidence: [act.id] }
  );
}

/** A dialog of the browser stood open when a command came that it does not let through. */
export const dialogInTheWay: ClueKind = {
  code: 'dialog-in-the-way',
  about: 'A dialog that nobody had answered was open when the test went on.',
  find: (scene) => {
    const { failing, failure, window: windows } = scene;
    const told = failing?.data.error?.code === 'unexpected alert open' || failure?.kind === 'unexpected-dialog';
    const end = failing ? endOf(failing) : scene.until;
    const moment = momentOf(scene);
    const dialog = windows.findLast((one) => one.kind === 'dialog-opened' && one.at <= end);
    const answered =
      dialog &&
      windows.some(
        (one) => one.kind === 'dialog-closed' && one.at > dialog.at && one.at < (failing?.at ?? Infinity) - 5,
      );
    const odd = !told && dialog && oddity(scene, dialog.at);
    if (odd) {
      const { strength, words } = weighed(scene, odd.strength, (ordinary, id) => ordinary.dialogs(id));
      return [
        {
          at: dialog.at,
          summary: `A dialog ${quote(shorten(dialog.data.text ?? '', 44))} opened${odd.words}${words}`,
          strength,
          evidence: [dialog.id, ...odd.evidence, ...(moment?.evidence ?? [])],
        },
      ];
    }
    if (!told && (!dialog || answered || failure?.kind !== 'timeout')) return [];
    const text = dialog?.data.text;
    return [
      {
        at: dialog?.at ?? moment?.at ?? 0,
        ...(failing ? { until: failing.at } : {}),
        summary:
          `A dialog ${text ? quote(shorten(text, 44)) : ''} was open${failing ? ` when ${said(failing.data.label)} came` : ''}`.replace(
            '  ',
            ' ',
          ),
        strength: 1,
        evidence: [...(dialog ? [dialog.id] : []), ...(moment?.evidence ?? [])],
      },
    ];
  },
};
