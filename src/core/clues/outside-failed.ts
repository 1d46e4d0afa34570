import { duration } from '../evidence/labels.ts';
import { requestKey } from '../contrast/sketch.ts';
import { arrivedAt } from '../evidence/event.ts';
import type { Clue, ClueKind } from './clue.ts';
import { gaveUpAt, timedOut } from './scene.ts';
import { weighed } from './usualness.ts';

/** An outside service failed, was blocked, or did not answer while the attempt waited. */
export const outsideFailed: ClueKind = {
  code: 'outside-failed',
  about: 'A service that is not the application’s own failed or did not answer before the attempt failed.',
  find: (scene) => {
    const end = gaveUpAt(scene) ?? scene.until;
    const usual = new Set(
      scene.passing.flatMap((one) =>
        one.requests
          .filter(({ ended }) => ended !== '2xx' && ended !== '3xx')
          .map(({ key, ended }) => `${key} ${ended === 'open' ? 'open' : 'bad'}`),
      ),
    );
    return scene.network
      .filter((one) => !one.data.own && one.at <= end)
      .flatMap((one): Omit<Clue, 'code'>[] => {
        const { status, failed } = one.data;
        const open = arrivedAt(one) > end - 10 && timedOut(scene) && end - one.at > 400;
        const bad =
          !open &&
          ((status !== undefined && status >= 400) ||
            (failed !== undefined && !status && !failed.startsWith('still') && !/abort/i.test(failed)));
        const key = requestKey(one);
        if ((!bad && !open) || usual.has(`${key} ${open ? 'open' : 'bad'}`)) return [];
        const { strength, words } = weighed(
          scene,
          scene.passing.length ? 1 : 0.9,
          (ordinary, id) =>
            open
              ? ordinary.tookAsLong(key, end - one.at, id)
              : ordinary.ended(key, status ? `${Math.floor(status / 100)}xx` : 'failed', id),
          { key, type: one.data.type },
        );
        return [
          {
            at: bad ? arrivedAt(one) : one.at,
            until: bad ? arrivedAt(one) : end,
            summary: bad
              ? `The outside service ${key} ${status ? `answered ${status}` : `failed: ${failed}`}${words}`
              : `The outside service ${key} had not answered for ${duration(end - one.at)} when the wait gave up${words}`,
            strength,
            evidence: [one.id, ...(scene.failing ? [scene.failing.id] : [])],
          },
        ];
      })
      .sort((a, b) => b.strength - a.strength)
      .slice(0, 3);
  },
};
