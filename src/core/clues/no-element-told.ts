import { locatorText } from '../evidence/locator.ts';
import { quote, shorten } from '../evidence/labels.ts';
import type { ClueKind } from './clue.ts';
import { momentOf } from './scene.ts';

/** The browser looked and found nothing. By itself this says only that it was not there, then, where it looked. */
export const noElementTold: ClueKind = {
  code: 'no-element-told',
  about: 'The browser said that no element matched.',
  find: (scene) => {
    const { failure } = scene;
    const moment = momentOf(scene);
    if (!moment || failure?.kind !== 'no-such-element') return [];
    const what = failure.locator ? quote(shorten(locatorText(failure.locator), 44)) : 'What was looked for';
    return [{ ...moment, summary: `${what} matched nothing`, strength: 0.7 }];
  },
};
