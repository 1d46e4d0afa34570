import type { ClueKind } from './clue.ts';
import { ofPassing, wholeOf } from './scene.ts';

/** By how many attempts failed in this engine: one alone may have failed of anything. */
const strengths = [0.65, 0.8, 0.95];

/** Passing attempts were made in other engines only, and it failed so in no other. */
export const engineOnly: ClueKind = {
  code: 'engine-only',
  about: 'No passing attempt was made in this browser engine, and none in another failed so.',
  find: (scene) => {
    const own = scene.sketch.environment.browser;
    const engines = scene.passing.map((one) => one.environment.browser).filter(Boolean);
    const whole = wholeOf(scene);
    if (!own || !whole || engines.length === 0 || engines.includes(own)) return [];
    const kin = scene.kin ?? [];
    if (kin.some(({ environment: { browser } }) => browser && browser !== own)) return [];
    const failed = kin.filter(({ environment }) => environment.browser === own).length;
    const strength = strengths[Math.min(failed, engines.length - 1, strengths.length - 1)]!;
    const others = failed ? `, as in ${failed === 1 ? 'the other' : `all ${failed} others`} that failed so` : '';
    return [
      {
        ...whole,
        summary: `It ran in ${own}${others}; ${ofPassing(engines.length, engines.length)} it was ${[...new Set(engines)].join(' or ')}`,
        strength,
      },
    ];
  },
};
