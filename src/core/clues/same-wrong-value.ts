import { quote, shorten } from '../evidence/labels.ts';
import type { ClueKind } from './clue.ts';
import { momentOf } from './scene.ts';

/** Two may agree by chance; three do not, where the value is no placeholder. */
const leastKin = 2;

/** No attempt of the test is known to pass, and all that failed so found the same. */
export const sameWrongValue: ClueKind = {
  code: 'same-wrong-value',
  about: 'Every attempt of the test found the same wrong value, and none is known to have passed.',
  find: (scene) => {
    const { failure, kin = [], passing } = scene;
    const moment = momentOf(scene);
    if (!moment || !failure?.actual || passing.length > 0) return [];
    const others = kin.flatMap((one) => one.checks.findLast(({ ok }) => !ok)?.actual ?? []);
    if (others.length < leastKin || others.some((value) => value !== failure.actual)) return [];
    return [
      {
        ...moment,
        summary: `All ${others.length + 1} attempts that failed so found ${quote(shorten(failure.actual, 40))}, and none is known to have passed`,
        strength: Math.min(1, 0.6 + 0.1 * others.length),
      },
    ];
  },
};
