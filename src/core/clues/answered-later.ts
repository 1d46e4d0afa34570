import { duration } from '../evidence/labels.ts';
import type { ClueKind } from './clue.ts';
import { leftBehind, ofPassing, parted } from './scene.ts';
import { weighed } from './usualness.ts';

/** Most requests told of one attempt. */
const mostTold = 2;

/** An answer took longer than in every passing attempt, by a clear margin. */
export const answeredLater: ClueKind = {
  code: 'answered-later',
  about: 'An answer came later than in passing attempts, by more than they vary among themselves.',
  find: (scene) =>
    parted(scene, 'latency')
      .filter(({ direction }) => direction === 'more')
      .slice(0, mostTold)
      .flatMap((one) => {
        const request = scene.sketch.requests.find(({ event }) => event === one.shown[0]?.event);
        const event = scene.network.find(({ id }) => id === request?.event);
        if (!request || (event && leftBehind(scene, event))) return [];
        const times = numbers(one.dots.passing);
        const { strength, words } = weighed(
          scene,
          times.length >= 3 ? 0.85 : 0.6,
          (ordinary, id) => ordinary.tookAsLong(request.key, request.until - request.at, id),
          { ...request, waits: true },
        );
        return [
          {
            at: request.at,
            until: request.until,
            summary: `${request.key} took ${duration(request.until - request.at)}; ${ofPassing(times.length, times.length)} ${duration(Math.min(...times))} to ${duration(Math.max(...times))}${words}`,
            strength,
            evidence: [request.event],
          },
        ];
      }),
};

const numbers = (values: readonly (boolean | number | null)[]): number[] =>
  values.filter((value): value is number => typeof value === 'number');
