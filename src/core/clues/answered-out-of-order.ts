import type { ClueKind } from './clue.ts';
import { ofPassing, parted } from './scene.ts';
import { weighed } from './usualness.ts';

/** Most pairs told of one attempt: requests that all waited for one late answer say the same thing many times. */
const mostTold = 2;

/** Two answers came in an order in which they do not come in passing attempts. */
export const answeredOutOfOrder: ClueKind = {
  code: 'answered-out-of-order',
  about: 'Two answers came in another order than in passing attempts.',
  find: (scene) =>
    parted(scene, 'order')
      .slice(0, mostTold)
      .flatMap((one) => {
        const shown = one.shown[0];
        if (!shown) return [];
        const [hits, of] = one.passing;
        const late = scene.sketch.requests.find(({ event }) => event === shown.event);
        const { strength, words } = weighed(
          scene,
          of >= 3 ? 0.9 : 0.7,
          (ordinary, id) => ordinary.tookAsLong(one.subject, late ? late.until - late.at : 0, id),
          late,
        );
        return [
          {
            at: shown.at,
            summary: `${one.summary}; ${ofPassing(of - hits, of)} it was the other way round${words}`,
            strength,
            evidence: [shown.event],
          },
        ];
      }),
};
