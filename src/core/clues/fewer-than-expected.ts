import type { ClueKind } from './clue.ts';
import { momentOf } from './scene.ts';

/** Counts go up to here; larger whole numbers are prices, points or years. */
const largestCount = 100;
const whole = (text: string | undefined): number => (/^\s*\d{1,3}\s*$/.test(text ?? '') ? Number(text) : NaN);

/** A count stopped short of what it should be: as a list that is still being filled. */
export const fewerThanExpected: ClueKind = {
  code: 'fewer-than-expected',
  about: 'Something was counted, and there was less of it than expected.',
  find: (scene) => {
    const { kind, expected, actual } = scene.failure ?? {};
    const moment = momentOf(scene);
    const [wanted, was] = [whole(expected), whole(actual)];
    if (!moment || kind !== 'assertion' || !(was < wanted) || was === 0 || wanted > largestCount) return [];
    return [{ ...moment, summary: `It counted ${was} where ${wanted} was expected`, strength: 0.8 }];
  },
};
