import { pathOf, said, shorten } from '../evidence/labels.ts';
import type { Clue, ClueKind } from './clue.ts';
import { failingStep, ofPassing, parted, sameInPassing, type Scene } from './scene.ts';

/** Another window had opened, and the test was looking at one of the others when it failed. */
export const windowUnlooked: ClueKind = {
  code: 'window-unlooked',
  about: 'Several windows were open, and what failed was looked for in one of them.',
  find: (scene) => {
    const { failing, window: windows } = scene;
    const code = failing?.data.error?.code;
    const read = otherPageInWindow(scene);
    if (read) return [read];
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

/** It failed in a window or frame that shows another page than the one passing attempts look at, and more had opened than in theirs. */
function otherPageInWindow(scene: Scene): Omit<Clue, 'code'> | undefined {
  const step = failingStep(scene);
  // Where nothing tells which page a window shows, it may well be the one that was meant.
  if (!step || step.window === undefined || step.window === 0 || step.page === undefined) return undefined;
  const same = sameInPassing(scene, step).filter((one) => one.window !== undefined);
  const seen = new Set(same.map(({ page }) => page));
  if (same.length < 2 || seen.size !== 1 || seen.has(step.page) || seen.has(undefined)) return undefined;
  // A page that passing attempts reach by the same window is a matter of ways, not of windows.
  const own = scene.sketch.windows.length;
  const more = step.window < 0 || scene.passing.every(({ windows }) => windows.length < own);
  if (!more) return undefined;
  return {
    at: step.at,
    summary: `${said(step.label)} was done in ${step.window < 0 ? 'a frame' : `window ${step.window + 1}`} with ${step.page}; ${ofPassing(same.length, same.length)} it was ${[...seen][0]!}`,
    strength: 0.95,
    evidence: step.events,
  };
}
