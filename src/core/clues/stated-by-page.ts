import { quote, shorten } from '../evidence/labels.ts';
import type { Clue, ClueKind } from './clue.ts';
import { momentOf, type Scene } from './scene.ts';

/** Shorter texts stand in a page by chance. */
const leastText = 12;

/** Where no attempt is known to pass: the value found is what the page was served with, word for word. */
export const statedByPage: ClueKind = {
  code: 'stated-by-page',
  about: 'What was found is what the served page says, word for word; nothing was worked out.',
  find: (scene) => steadily(scene, true),
};

/** Where no attempt is known to pass: the value found stands in no page that was served; it was worked out. */
export const workedOut: ClueKind = {
  code: 'worked-out',
  about: 'What was found stands in no page as it was served: the application worked it out.',
  find: (scene) => steadily(scene, false),
};

function steadily(scene: Scene, stated: boolean): Omit<Clue, 'code'>[] {
  const actual = scene.failure?.actual?.trim();
  const moment = momentOf(scene);
  if (!actual || !moment || scene.passing.length > 0) return [];
  const documents = scene.bodies.filter(({ data }) => data.of === 'response' && /html/.test(data.mime ?? ''));
  if (documents.length === 0) return [];
  const plain = (text: string): string => text.replace(/\s+/g, ' ');
  const served = documents.find(({ data }) => plain(data.text).includes(plain(actual)));
  if (stated ? !served || actual.length < leastText : served || !/\d/.test(actual)) return [];
  return [
    {
      ...moment,
      summary: stated
        ? `${quote(shorten(actual, 40))} is what the page was served with, word for word`
        : `${quote(shorten(actual, 40))} stands in no page as it was served: it was worked out`,
      strength: 0.9,
      evidence: [...moment.evidence, ...(served ? [served.id] : [])],
    },
  ];
}
