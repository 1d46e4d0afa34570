import type { ClueKind } from './clue.ts';
import { ofPassing } from './scene.ts';

/** Passing attempts were made in other engines only. */
export const engineOnly: ClueKind = {
  code: 'engine-only',
  about: 'No passing attempt was made in this browser engine.',
  find: (scene) => {
    const own = scene.sketch.environment.browser;
    const engines = scene.passing.map((one) => one.environment.browser).filter(Boolean);
    const first = scene.steps[0];
    if (!own || !first || engines.length === 0 || engines.includes(own)) return [];
    return [
      {
        at: first.at,
        summary: `It ran in ${own}; ${ofPassing(engines.length, engines.length)} it was ${[...new Set(engines)].join(' or ')}`,
        strength: engines.length >= 3 ? 0.95 : 0.7,
        evidence: [scene.failing?.id ?? first.id],
      },
    ];
  },
};
