import { acting, lineOf, sketched } from '../clues/scene.ts';
import { endOf } from '../evidence/event.ts';
import { duration, quote, said, shorten } from '../evidence/labels.ts';
import { segmentAt } from '../evidence/lifelines.ts';
import { sourceOf } from './ground.ts';
import type { Risk, RiskFinder } from './risk.ts';

/** A clock or a counter changes by itself all the time: more changes than this are its nature. */
const mostChanges = 3;

/** A value was read once, and then the page changed it by itself: what passed was not yet what the page had to say. */
export const readTooEarly: RiskFinder = {
  kind: 'read-too-early',
  about: 'A value was read before the page had come to rest: it changed afterwards without another action.',
  find: (scene) =>
    scene.steps.flatMap((read): Omit<Risk, 'kind'>[] => {
      const { action, subject, error, result, label } = read.data;
      if (action !== 'read' || subject !== 'text' || error || scene.insideWait.has(read.id)) return [];
      const line = lineOf(scene, read);
      const before = line && segmentAt(line, endOf(read));
      const was = typeof result === 'string' ? result.trim() : undefined;
      if (!before || was === undefined || (before.state.text ?? '').trim() !== was) return [];
      const next = scene.steps.find(
        (one) => one.at > read.at && (acting(one) || one.data.action === 'open' || one.data.action === 'navigate'),
      );
      const end = next?.at ?? scene.until + 1;
      const changes = line.segments.filter(
        ({ from, state, context }) =>
          from > endOf(read) &&
          from < end &&
          state.node !== null &&
          context === before.context &&
          (state.text ?? '').trim() !== was,
      );
      const earlier = line.segments.filter(({ from, kind }) => from < read.at && kind === 'changed').length;
      const [change] = changes;
      const step = sketched(scene, read);
      if (!change || !step || changes.length > mostChanges || earlier > mostChanges) return [];
      return [
        {
          key: step.sig,
          step: label,
          ...sourceOf(scene, step),
          at: read.at,
          until: change.from,
          summary: `${said(label)} gave ${quote(shorten(was, 28))}; ${duration(change.from - endOf(read))} later the page made it ${quote(shorten(change.state.text ?? '', 28))}`,
          change: `Wait until the text is what it ends at, or until the page is done, before ${said(label)}`,
          strength: 1,
          evidence: [read.id, change.event],
        },
      ];
    }),
};
