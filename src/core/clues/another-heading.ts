import { quote, shorten } from '../evidence/labels.ts';
import type { ClueKind } from './clue.ts';
import { momentOf } from './scene.ts';

/** Words by which tests call what a page is known by. */
const pageWords = /\b(?:title|heading|headline|h1|page|address|url|path|location)\b/i;

/** The check was on what a page is known by, and found another page’s. */
export const anotherHeading: ClueKind = {
  code: 'another-heading',
  about: 'A check of a title, heading or address found that of another page.',
  find: (scene) => {
    const { failure } = scene;
    const moment = momentOf(scene);
    const { expected = '', actual = '' } = failure ?? {};
    if (!moment || failure?.kind !== 'assertion' || !expected.trim() || !actual.trim()) return [];
    const check = scene.notes.findLast(({ kind, data }) => kind === 'check' && data.ok === false)?.data.label;
    const said = check ?? failure.message.split(/\bexpected\b/i)[0]!;
    if (!pageWords.test(said)) return [];
    return [
      {
        ...moment,
        summary: `The page was ${quote(shorten(actual, 36))} where ${quote(shorten(expected, 36))} was expected`,
        strength: 0.8,
      },
    ];
  },
};
