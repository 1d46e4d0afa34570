import { stateAt, type Scene } from '../clues/scene.ts';
import { duration, said } from '../evidence/labels.ts';
import { arrivedAt } from '../evidence/event.ts';
import { requestKey } from '../contrast/sketch.ts';
import { actBefore, eventOf, lineTold, usesPage, waitedBetween } from './ground.ts';
import type { Risk, RiskFinder } from './risk.ts';
import { chanceLate } from './slack.ts';

/** So long after an answer nobody is in a hurry, ms. */
const hurryMs = 1500;

const leaves = (action: string): boolean => action === 'open' || action === 'navigate';

/** The test went to another page while something it had sent was under way, or right after, without waiting for it. */
export const leftUnderWay: RiskFinder = {
  kind: 'left-under-way',
  about: 'The test left a page before what it had sent from there was answered, or right after.',
  find: (scene) =>
    scene.sketch.steps.flatMap((step): Omit<Risk, 'kind'>[] => {
      if (!leaves(step.action)) return [];
      const act = actBefore(scene.sketch, step);
      if (!act || leaves(act.action) || waitedBetween(scene, act.at, step)) return [];
      const sent = scene.network.filter(
        ({ at, data }) => !/^(?:GET|HEAD|OPTIONS)$/.test(data.method) && at >= act.at && at <= step.at,
      );
      const [last] = sent.sort((a, b) => arrivedAt(b) - arrivedAt(a));
      if (!last || step.at - arrivedAt(last) > hurryMs) return [];
      const left = step.at - arrivedAt(last);
      return [
        {
          ...lineTold(scene, step),
          at: last.at,
          until: step.at,
          summary:
            left < 0
              ? `${said(step.label)} came while ${requestKey(last)} was under way`
              : `${said(step.label)} came ${duration(left)} after the answer of ${requestKey(last)}, and nothing waited for it`,
          change: `Wait for what the page shows once ${requestKey(last)} is answered, then go on`,
          strength: left < 0 ? 1 : 0.4 + 0.6 * chanceLate([arrivedAt(last) - last.at], step.at - last.at),
          evidence: [...step.events.slice(0, 1), last.id],
        },
      ];
    }),
};

/** A step used what is on the old page as well as on the new one, right after the new one had come. */
export const pageLeftBehind: RiskFinder = {
  kind: 'page-left-behind',
  about: 'A step came right after another page did, and would have found its target on the page before.',
  find: (scene) =>
    scene.sketch.steps.flatMap((step): Omit<Risk, 'kind'>[] => {
      const act = usesPage(step) ? actBefore(scene.sketch, step) : undefined;
      if (!act || leaves(act.action) || waitedBetween(scene, act.at, step)) return [];
      const came = comeSince(scene, act.until, step.at);
      const event = eventOf(scene, step);
      if (!came || !event) return [];
      const before = stateAt(scene, event, act.at);
      const late = chanceLate([came.at - act.until], step.at - act.until);
      return [
        {
          ...lineTold(scene, step),
          at: act.at,
          until: step.at,
          summary: `Another page came ${duration(step.at - came.at)} before ${said(step.label)}, and nothing waited for it${before?.state.count ? '; the page before had one like it' : ''}`,
          change: `Wait for what only the new page has before ${said(step.label)}`,
          strength: Math.min(1, 0.3 + 3 * late) * (before?.state.count ? 1 : 0.7),
          evidence: [...step.events.slice(0, 1), came.id],
        },
      ];
    }),
};

/** A page that came after a command was answered: the command had not waited for it. */
const comeSince = ({ page }: Scene, from: number, until: number) =>
  page.findLast(
    ({ kind, at }) => (kind === 'navigation-committed' || kind === 'fragment') && at > from + 5 && at <= until,
  );
