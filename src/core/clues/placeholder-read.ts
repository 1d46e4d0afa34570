import { quote } from '../evidence/labels.ts';
import type { ClueKind } from './clue.ts';
import { momentOf } from './scene.ts';

/** What pages show while the real thing is still coming. */
const placeholder =
  /^(?:0(?:[.,]0+)?|…|\.{2,}|-+|—|–|n\/a|null|undefined|nan|loading\W*|please wait\W*|(?:\[\])|\{\})?$/i;

/** What was read is what a page shows before it has anything to show. */
export const placeholderRead: ClueKind = {
  code: 'placeholder-read',
  about: 'What was read looks like what a page shows while the real value is still coming.',
  find: (scene) => {
    const { expected, actual } = scene.failure ?? {};
    const moment = momentOf(scene);
    if (!moment || expected === undefined || actual === undefined || scene.failure!.kind !== 'assertion') return [];
    if (!placeholder.test(actual.trim()) || placeholder.test(expected.trim())) return [];
    return [
      {
        ...moment,
        summary: `${actual.trim() ? quote(actual.trim()) : 'Nothing'} was read where ${quote(expected)} was expected, as before anything has come`,
        strength: 0.8,
      },
    ];
  },
};
