import { endOf } from '../evidence/event.ts';
import { quote, shorten, targetName } from '../evidence/labels.ts';
import { nameAt, segmentAt } from '../evidence/lifelines.ts';
import type { Clue, ClueKind } from './clue.ts';
import { acting, leftPage, lineOf } from './scene.ts';

/** A clock, a counter or a progress bar changes by itself all the time: more changes than this are its nature. */
const mostChanges = 3;

/**
 * A value was read, the test was content with it, and then the page changed it without anybody doing
 * anything: what passed was not yet what the page had to say.
 */
export const changedAfterCheck: ClueKind = {
  code: 'changed-after-check',
  about: 'A value that a check had accepted was changed by the page afterwards, without another action.',
  find: (scene) => {
    const checked = scene.notes.filter((note) => note.kind === 'check' && note.data.ok !== false);
    return checked.flatMap((check): Omit<Clue, 'code'>[] => {
      const read = scene.steps.findLast(
        (step) => step.data.action === 'read' && !step.data.error && endOf(step) <= check.at + 1,
      );
      const line = read && lineOf(scene, read);
      if (!read || !line || read.data.subject !== 'text') return [];
      const was = typeof read.data.result === 'string' ? read.data.result.trim() : undefined;
      const before = segmentAt(line, endOf(read));
      if (was === undefined || !before || (before.state.text ?? '').trim() !== was) return [];
      const acted = scene.steps.find(
        (step) =>
          step.at > check.at && (acting(step) || step.data.action === 'open' || step.data.action === 'navigate'),
      );
      const end = acted?.at ?? scene.until + 1;
      const changes = line.segments.filter(
        (one) =>
          one.from > endOf(read) &&
          one.from < end &&
          one.state.node !== null &&
          // Another window or frame has its own: what is seen there is no change of this one.
          one.context === before.context &&
          (one.state.text ?? '').trim() !== was,
      );
      const [change] = changes;
      if (!change || changes.length > mostChanges || leftPage(scene, endOf(read), change.from)) return [];
      return [
        {
          at: read.at,
          until: change.from,
          summary: `${targetName(read.data, nameAt(line, read.at))} was accepted as ${quote(shorten(was, 28))}; ${Math.round(change.from - endOf(read))} ms later the page made it ${quote(shorten(change.state.text ?? '', 28))}`,
          strength: 0.95,
          evidence: [read.id, change.event, check.id],
        },
      ];
    });
  },
};
