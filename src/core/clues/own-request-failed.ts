import { requestKey } from '../contrast/sketch.ts';
import { endOf, unanswered } from '../evidence/event.ts';
import type { Clue, ClueKind } from './clue.ts';
import { weighed } from './usualness.ts';
import { gaveUpAt, parted } from './scene.ts';

/** The application's own service answered with an error, or did not answer at all. */
export const ownRequestFailed: ClueKind = {
  code: 'own-request-failed',
  about: 'The application’s own service failed before the attempt did.',
  find: (scene) => {
    const end = gaveUpAt(scene) ?? scene.until;
    const usual = new Set(
      scene.passing.flatMap((one) =>
        one.requests.flatMap(({ key, ended }) => (ended === '5xx' || ended === 'failed' ? [`${key} ${ended}`] : [])),
      ),
    );
    return scene.network
      .filter((one) => one.data.own && endOf(one) <= end + 50)
      .flatMap((one): Omit<Clue, 'code'>[] => {
        const { status, failed } = one.data;
        const error = status !== undefined && status >= 500;
        const broken = failed !== undefined && failed !== unanswered && !/abort/i.test(failed) && !status;
        if (!error && !broken) return [];
        const key = requestKey(one);
        if (usual.has(`${key} ${error ? '5xx' : 'failed'}`)) return [];
        const { strength, words } = weighed(
          scene,
          1,
          (ordinary, id) => ordinary.ended(key, error ? '5xx' : 'failed', id),
          { key, type: one.data.type },
        );
        const newly = parted(scene, 'status').some(({ subject, direction }) => subject === key && direction === 'has');
        return [
          {
            at: endOf(one),
            summary: `${key} ${error ? `answered ${status}` : `failed: ${failed}`}${newly ? ', in no passing attempt' : ''}${words}`,
            strength: (newly ? 1 : 0.9) * strength,
            evidence: [one.id],
          },
        ];
      })
      .sort((a, b) => b.strength - a.strength)
      .slice(0, 3);
  },
};
