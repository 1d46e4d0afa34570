import { targetName } from '../evidence/labels.ts';
import { nameAt } from '../evidence/lifelines.ts';
import type { ClueKind } from './clue.ts';
import { acting, lineOf, stateAt } from './scene.ts';

/** A disabled control takes a press without a word: nothing happens, and nothing says so. */
export const actedOnDisabled: ClueKind = {
  code: 'acted-on-disabled',
  about: 'The target was disabled when it was pressed or typed into.',
  find: (scene) =>
    scene.steps.filter(acting).flatMap((step) => {
      const segment = stateAt(scene, step);
      const line = lineOf(scene, step);
      if (!segment || !line || segment.state.node === null || segment.state.enabled !== false) return [];
      const later = line.segments.find((one) => one.from > step.at && one.state.enabled === true);
      const name = targetName(step.data, nameAt(line, step.at));
      return [
        {
          at: step.at,
          ...(later ? { until: later.from } : {}),
          summary: `${name} was disabled when it was used${later ? `, and enabled ${Math.round(later.from - step.at)} ms later` : ''}`,
          strength: later ? 1 : 0.85,
          evidence: [step.id, segment.event, ...(later ? [later.event] : [])],
        },
      ];
    }),
};
