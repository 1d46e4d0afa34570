import { endOf } from '../evidence/event.ts';
import { quote, shorten, targetName } from '../evidence/labels.ts';
import { nameAt, segmentAt } from '../evidence/lifelines.ts';
import { coverName } from '../failures/read.ts';
import type { Clue, ClueKind } from './clue.ts';
import { pointerPresses } from './pointer-press.ts';
import { lineOf, momentOf } from './scene.ts';

/**
 * The press was refused because its point belonged to another element. The driver's error tells
 * point and element; the lifeline tells since when it lay there.
 */
export const pressPointCovered: ClueKind = {
  code: 'press-point-covered',
  about: 'Something else lay over the point where the press would have landed.',
  find: (evidence) => {
    const moment = momentOf(evidence);
    const told = evidence.failure?.kind === 'press-intercepted' ? evidence.failure : undefined;
    if (!evidence.failing && moment && told)
      return [
        {
          ...moment,
          summary: `${coverName(told, undefined, 0)} lay over the press point, as the message says`,
          strength: 0.95,
        },
      ];
    const refused = evidence.steps.filter(
      (s) => s.data.error?.code === 'element click intercepted' && !evidence.insideWait.has(s.id),
    );
    const speaking = evidence.failing && refused.includes(evidence.failing) ? [evidence.failing] : refused;
    // Pointer actions are not refused: they press whatever lies there.
    const passed = pointerPresses(evidence).flatMap(({ press, step, line, inside, reached }): Omit<Clue, 'code'>[] =>
      inside && !reached && press.data.label
        ? [
            {
              at: press.at,
              summary: `${press.data.label} lay over the press point of ${quote(shorten(line.label, 30))} and was pressed instead`,
              strength: 0.95,
              evidence: [step.id, press.id],
            },
          ]
        : [],
    );
    return passed.concat(
      speaking.map((step): Omit<Clue, 'code'> => {
        const message = step.data.error!.message;
        const point = /at point \((-?[\d.]+), (-?[\d.]+)\)/.exec(message);
        const other = /would receive the click: (<[^\n<>]*>)/.exec(message)?.[1];
        const line = lineOf(evidence, step);
        const covered = line?.segments.findLast((s) => s.from <= endOf(step) && s.state.coveredBy);
        const since = covered && segmentAt(line!, endOf(step))?.state.coveredBy ? covered : undefined;
        const what = coverName({ obstructing: other }, line, endOf(step));
        const where = point ? ` at (${point[1]}, ${point[2]})` : '';
        const target = targetName(step.data, line && nameAt(line, step.at));
        return {
          at: since ? Math.min(since.from, step.at) : step.at,
          until: endOf(step),
          summary: `${what} lay over the press point of ${target}${where}`,
          strength: 1,
          evidence: [step.id, ...(covered ? [covered.event] : [])],
        };
      }),
    );
  },
};
