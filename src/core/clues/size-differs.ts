import { sizeOf } from '../contrast/circumstances.ts';
import type { ClueKind } from './clue.ts';
import { ofPassing } from './scene.ts';

/** Passing attempts had windows of other sizes: what shows at one size may not at another. */
export const sizeDiffers: ClueKind = {
  code: 'size-differs',
  about: 'No passing attempt had a window of this size.',
  find: (scene) => {
    const own = sizeOf(scene.sketch);
    const sizes = scene.passing.flatMap((one) => sizeOf(one) ?? []);
    const first = scene.steps[0];
    if (!own || !first || sizes.length === 0 || sizes.includes(own)) return [];
    return [
      {
        at: first.at,
        summary: `The window was ${own}; ${ofPassing(sizes.length, sizes.length)} it was ${[...new Set(sizes)].join(' or ')}`,
        strength: 0.9,
        evidence: [scene.failing?.id ?? first.id],
      },
    ];
  },
};
