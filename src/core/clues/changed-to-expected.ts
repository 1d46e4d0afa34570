import { endOf } from '../evidence/event.ts';
import { quote, shorten, targetName } from '../evidence/labels.ts';
import { nameAt } from '../evidence/lifelines.ts';
import type { ClueKind } from './clue.ts';
import { acting, gaveUpAt, leftPage, lineOf, timedOut } from './scene.ts';

/** After the check had failed, the page came to show what was expected, and nobody had touched it in between. */
export const changedToExpected: ClueKind = {
  code: 'changed-to-expected',
  about: 'What was expected came to stand on the same page after the check, without another action.',
  find: (scene) => {
    const { failing, failure } = scene;
    const line = failing && lineOf(scene, failing);
    const from = gaveUpAt(scene);
    if (!failing || !line || from === undefined || timedOut(scene)) return [];
    const expected = failure?.expected;
    const later = line.segments.find(({ from: at, state }) => {
      if (at <= from - 5 || state.node === null) return false;
      if (expected === undefined) return false;
      return (state.text ?? '').trim() === expected.trim() || String(state.count) === expected;
    });
    if (!later || scene.steps.some((step) => acting(step) && step.at > endOf(failing) && step.at < later.from))
      return [];
    // What stands on another page is no change of this one.
    if (leftPage(scene, failing.at, later.from)) return [];
    return [
      {
        at: failing.at,
        until: later.from,
        summary: `${targetName(failing.data, nameAt(line, failing.at))} came to show ${quote(shorten(expected!, 32))} ${Math.round(later.from - failing.at)} ms after it was read`,
        strength: 1,
        evidence: [failing.id, later.event],
      },
    ];
  },
};
