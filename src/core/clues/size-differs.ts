import { sizeOf } from '../contrast/circumstances.ts';
import type { ClueKind } from './clue.ts';
import { ofPassing, wholeOf } from './scene.ts';

/** Passing attempts had windows of other sizes: what shows at one size may not at another. */
export const sizeDiffers: ClueKind = {
  code: 'size-differs',
  about: 'No passing attempt had a window of this size.',
  find: (scene) => {
    const own = sizeOf(scene.sketch);
    const sameEngine = scene.passing.some(
      ({ environment }) => environment.browser === scene.sketch.environment.browser,
    );
    const sizes = scene.passing.flatMap((one) => sizeOf(one) ?? []);
    const whole = wholeOf(scene);
    if (!own || !whole || sizes.length === 0 || sizes.includes(own)) return [];
    return [
      {
        ...whole,
        summary: `The window was ${own}; ${ofPassing(sizes.length, sizes.length)} it was ${[...new Set(sizes)].join(' or ')}`,
        // Engines have windows of their own: between them a size tells little.
        strength: sameEngine ? 0.9 : 0.4,
      },
    ];
  },
};
