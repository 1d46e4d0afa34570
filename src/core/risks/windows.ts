import { said } from '../evidence/labels.ts';
import { sketched } from '../clues/scene.ts';
import { sourceOf } from './ground.ts';
import type { Risk, RiskFinder } from './risk.ts';

/** A window or frame was taken by its place in an order, without a look at what it shows. */
export const windowByOrder: RiskFinder = {
  kind: 'window-by-order',
  about: 'A window or frame was taken by its place in an order, not by what it shows.',
  find: (scene) =>
    scene.steps.flatMap((step, i): Omit<Risk, 'kind'>[] => {
      const { command, number, handle, error, label } = step.data;
      if (error) return [];
      const frame = command === 'switch to frame' && typeof number === 'number';
      const window = command === 'switch to window' && newlyOpened(scene.steps.slice(0, i), String(handle));
      if (!frame && !window) return [];
      // Asked for its address or title before anything else is done in it: it is looked at.
      const next = scene.steps[i + 1];
      if (next && /^get (?:current url|title)$/.test(next.data.command)) return [];
      const drawn = sketched(scene, step);
      if (!drawn) return [];
      return [
        {
          key: `${drawn.sig} ${frame ? number : ''}`,
          step: label,
          ...sourceOf(scene, drawn),
          at: step.at,
          summary: frame
            ? `Frame number ${number + 1} of the page was taken, whatever it shows: one more before it, and it is another`
            : `A window was taken by its place among those that are open, and what it shows was not looked at`,
          change: frame
            ? 'Find the frame by its name, title or address, and switch to that'
            : `Wait for the window whose address is the one that is meant, then ${said(label).toLowerCase()}`,
          strength: 1,
          evidence: [step.id],
        },
      ];
    }),
};

/** A handle that no step before has looked at: one that the test came from is known to it. */
function newlyOpened(
  before: readonly { data: { command: string; handle?: unknown; window?: string; result?: unknown } }[],
  handle: string,
): boolean {
  return !before.some(
    ({ data }) => data.window === handle || (data.command === 'switch to window' && data.handle === handle),
  );
}
