import { duration } from '../evidence/labels.ts';
import { arrivedAt, type NetworkEvent } from '../evidence/event.ts';
import { requestKey } from '../contrast/sketch.ts';
import type { ClueKind } from './clue.ts';
import { isOrnament } from './relevance.ts';
import { gaveUpAt, leftBehind, timedOut, waitOf } from './scene.ts';
import { weighed } from './usualness.ts';

/** The wait gave up while a request of the application's own was still under way. */
export const waitEndedUnderWay: ClueKind = {
  code: 'wait-ended-under-way',
  about: 'The wait ended by its limit while the answer it needed was still under way.',
  find: (scene) => {
    const end = gaveUpAt(scene);
    if (!scene.failing || end === undefined || !timedOut(scene)) return [];
    const from = (waitOf(scene) ?? scene.failing).at;
    const open = scene.network
      .filter(
        (one) =>
          one.data.own &&
          !isOrnament(one.data.type) &&
          one.at < end &&
          arrivedAt(one) > end - 10 &&
          end - one.at > 250 &&
          !leftBehind(scene, one),
      )
      .sort((a, b) => a.at - b.at);
    const request = open.find((one) => one.at <= from + 50) ?? open[0];
    if (!request) return [];
    const { strength, words } = weighed(
      scene,
      0.95,
      (ordinary, id) => ordinary.tookAsLong(requestKey(request), end - request.at, id),
      { key: requestKey(request), type: request.data.type, waits: true },
    );
    return [
      {
        at: end,
        until: arrivedAt(request),
        summary: `The wait gave up after ${duration(end - from)}; ${requestKey(request)} had been under way for ${duration(end - request.at)}${usual(request, scene.passing)}${words}`,
        strength,
        evidence: [scene.failing.id, request.id],
      },
    ];
  },
};

/** What the same request takes in passing attempts. */
function usual(request: NetworkEvent, passing: Parameters<ClueKind['find']>[0]['passing']): string {
  const times = passing.flatMap((one) => {
    const same = one.requests.find(({ key }) => key === requestKey(request));
    return same ? [same.until - same.at] : [];
  });
  return times.length ? `, in passing attempts ${duration(Math.min(...times))} to ${duration(Math.max(...times))}` : '';
}
