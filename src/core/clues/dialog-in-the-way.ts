import { endOf, type StepEvent } from '../evidence/event.ts';
import { quote, said, shorten } from '../evidence/labels.ts';
import type { ClueKind } from './clue.ts';
import { acting, momentOf, ofPassing, type Scene } from './scene.ts';
import { weighed } from './usualness.ts';

/** What an act of the test brings up comes within this of its end, ms. */
const uponMs = 600;

/** The act of the test upon which something came. */
const uponAct = ({ steps }: Scene, at: number): StepEvent | undefined =>
  steps.findLast((step) => acting(step) && step.at <= at && at - endOf(step) <= uponMs);

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
    if (!told && dialog && scene.passing.length >= 2 && scene.passing.every(({ dialogs }) => dialogs.length === 0)) {
      const { strength, words } = weighed(scene, 0.95, (ordinary, id) => ordinary.dialogs(id));
      return [
        {
          at: dialog.at,
          summary: `A dialog ${quote(shorten(dialog.data.text ?? '', 44))} opened, ${ofPassing(0, scene.passing.length)}${words}`,
          strength,
          evidence: [dialog.id, ...(moment?.evidence ?? [])],
        },
      ];
    }
    const alone = !told && dialog && scene.passing.length === 0 && uponAct(scene, dialog.at);
    if (alone && !scene.steps.some(({ data }) => data.action === 'dialog')) {
      const { strength, words } = weighed(scene, 0.85, (ordinary, id) => ordinary.dialogs(id));
      return [
        {
          at: dialog.at,
          summary: `A dialog ${quote(shorten(dialog.data.text ?? '', 44))} opened upon ${said(alone.data.label)}, and the test answers none${words}`,
          strength,
          evidence: [dialog.id, alone.id, ...(moment?.evidence ?? [])],
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
