import { pathOf, shorten } from '../evidence/labels.ts';
import { endOf } from '../evidence/event.ts';
import { requestKey } from '../contrast/sketch.ts';
import type { ClueKind } from './clue.ts';
import { momentOf } from './scene.ts';
import { weighed } from './usualness.ts';

/** A picture of the page had not come, and never did in this attempt, where passing attempts have it. */
export const pictureBroken: ClueKind = {
  code: 'picture-broken',
  about: 'A picture of the page could not be fetched, so that it stood there broken when it failed.',
  find: (scene) => {
    const moment = momentOf(scene);
    if (!moment) return [];
    const broken = scene.network.filter(
      (one) =>
        one.data.type === 'image' &&
        endOf(one) <= moment.at &&
        ((one.data.status ?? 0) >= 400 || (one.data.failed !== undefined && !/abort/i.test(one.data.failed))),
    );
    const always = new Set(
      scene.passing.flatMap(({ requests }) => requests.filter(({ ended }) => ended !== '2xx').map(({ key }) => key)),
    );
    return broken
      .filter((one) => !always.has(requestKey(one)))
      .slice(0, 2)
      .map((one) => {
        const key = requestKey(one);
        const { strength, words } = weighed(scene, 0.6, (ordinary, id) =>
          ordinary.ended(key, one.data.status ? `${Math.floor(one.data.status / 100)}xx` : 'failed', id),
        );
        return {
          at: one.at,
          until: endOf(one),
          summary: `The picture ${shorten(pathOf(one.data.url), 40)} ${one.data.status ? `answered ${one.data.status}` : 'could not be fetched'} and stood there broken${words}`,
          strength,
          evidence: [one.id, ...moment.evidence],
        };
      });
  },
};
