import { pathOf, said, shorten } from '../evidence/labels.ts';
import type { ClueKind } from './clue.ts';
import { ofPassing, parted } from './scene.ts';

/** Another window had opened, and the test was looking at one of the others when it failed. */
export const windowUnlooked: ClueKind = {
  code: 'window-unlooked',
  about: 'Several windows were open, and what failed was looked for in one of them.',
  find: (scene) => {
    const { failing, window: windows } = scene;
    const code = failing?.data.error?.code;
    if (!failing || (code !== 'no such element' && code !== 'no such window')) return [];
    const opened = windows.filter((one) => one.kind === 'opened' && one.at < failing.at);
    const closed = new Set(
      windows.filter((one) => one.kind === 'closed' && one.at < failing.at).map((one) => one.data.context),
    );
    const open = opened.filter((one) => !closed.has(one.data.context));
    if (open.length < 2) return [];
    const lookedIn = failing.data.window ?? failing.data.context;
    const other = open.findLast((one) => one.data.context !== lookedIn)!;
    const more = parted(scene, 'windows').find((one) => one.direction === 'has');
    const address = scene.page.findLast(
      (event) => event.kind === 'navigation-committed' && event.data.context === other.data.context,
    )?.data.address;
    return [
      {
        at: other.at,
        until: failing.at,
        summary: `${open.length} windows were open at ${said(failing.data.label)}; the test was not looking at ${address ? shorten(pathOf(address), 32) : 'the other one'}${more ? `, which ${ofPassing(more.passing[1] - more.passing[0], more.passing[1])} did not open` : ''}`,
        strength: more ? 0.95 : 0.8,
        evidence: [failing.id, other.id],
      },
    ];
  },
};
