import type { Sketch, SketchRequest, SketchStep } from '../contrast/sketch.ts';
import { duration, plural, quote, said, shorten } from '../evidence/labels.ts';
import { acting, lineOf, sketched, type Scene } from '../clues/scene.ts';
import { actBefore, begunBetween, everywhere, nearestTo, sourceOf, telling } from './ground.ts';
import type { Risk, RiskFinder } from './risk.ts';

/** So many attempts tell, and in so large a part of them it has to be so: on a page that loads, much comes at once. */
const fewest = 3;
const mostly = 0.75;
/** What is made of an answer stands there within this, ms; clocks of a page and of its requests differ by so much. */
const shownAtOnceMs = 80;
const clocksMs = 10;

/** The answer of another's service right after which what a step uses came to be there. */
function fedFromOutside(scene: Scene, attempt: Sketch, step: SketchStep): string | undefined {
  const came = step.arrived ?? (step.polls ? step.until : undefined);
  const act = actBefore(attempt, step);
  if (came === undefined || !act) return undefined;
  // Of all that had been answered by then, the last is what it was made of.
  const last = begunBetween(telling(scene, attempt), act.at, came + clocksMs)
    .filter(({ until }) => until <= came + clocksMs)
    .reduce<SketchRequest | undefined>((best, one) => (best && best.until >= one.until ? best : one), undefined);
  if (!last || last.own || last.ended !== '2xx' || came - last.until > shownAtOnceMs) return undefined;
  return /xhr|fetch|script/i.test(last.type) ? last.key : undefined;
}

/** What a step uses comes from a service of somebody else's. */
export const outsideAnswer: RiskFinder = {
  kind: 'outside-answer',
  about: 'What a step uses comes from a service outside of the application.',
  find: (scene) =>
    scene.sketch.steps.flatMap((step): Omit<Risk, 'kind'>[] => {
      const all = everywhere(scene, step);
      const from = all.map((one) => fedFromOutside(scene, one.attempt, one.step));
      const key = from[0];
      const same = from.filter((one) => one === key).length;
      if (!key || same < fewest || same < all.length * mostly) return [];
      const request = scene.sketch.requests.find((one) => one.key === key)!;
      return [
        {
          key: `${key} ${step.sig}`,
          step: step.label,
          ...sourceOf(scene, step),
          at: step.at,
          until: step.until,
          summary: `${said(step.label)} uses what came right after ${key}, in ${same} of ${plural(all.length, 'passing attempt')}: it is somebody else's service`,
          change: `Let a stand-in of your own answer ${key} in this test`,
          strength: 1,
          evidence: [...step.events.slice(0, 1), request.event],
        },
      ];
    }),
};

/** Something lay over a target in an attempt that passed: this time not when it was pressed. */
export const coveredAtTimes: RiskFinder = {
  kind: 'covered-at-times',
  about: 'Something lay over an element that the test presses, at another moment.',
  find: (scene) => {
    const out = new Map<string, Omit<Risk, 'kind'>>();
    for (const step of scene.steps.filter((one) => acting(one) && one.data.locator)) {
      const covered = lineOf(scene, step)?.segments.filter(({ kind, state }) => kind === 'covered' && state.coveredBy);
      const drawn = sketched(scene, step);
      if (!covered?.length || !drawn || out.has(drawn.sig)) continue;
      const nearest = nearestTo(covered, step.at);
      out.set(drawn.sig, {
        key: drawn.sig,
        step: step.data.label,
        ...sourceOf(scene, drawn),
        at: Math.min(nearest.from, step.at),
        until: Math.max(nearest.from, step.at),
        summary: `${quote(shorten(nearest.state.coveredBy!, 32))} lay over the target of ${said(step.data.label)}, ${duration(Math.abs(nearest.from - step.at))} ${nearest.from < step.at ? 'before' : 'after'} the press`,
        change: `Put away what lies over it, or wait until nothing does, before ${said(step.data.label)}`,
        strength: 1,
        evidence: [step.id, nearest.event],
      });
    }
    return [...out.values()];
  },
};

/** The attempt began with what others had left in the browser. */
export const leftByOthers: RiskFinder = {
  kind: 'left-by-others',
  about: 'The attempt began with cookies or storage that others had left.',
  find: (scene) => {
    const start = scene.page.find(({ kind }) => kind === 'circumstances');
    const { cookies, local } = start?.data.circumstances ?? {};
    const [first] = scene.sketch.steps;
    // Names that look like secrets are masked, and what comes from elsewhere may be anything.
    const names = [cookies, local].flatMap((list: unknown) => (Array.isArray(list) ? list.map(String) : []));
    // What the first page sets itself is there before anybody can look.
    if (!start || !first || names.length === 0 || start.at > first.at) return [];
    return [
      {
        key: 'left',
        step: first.label,
        at: start.at,
        summary: `${plural(names.length, 'cookie or stored value', 'cookies and stored values')} stood there when it began: ${names.slice(0, 4).map(quote).join(', ')}`,
        change: `Begin with a browser profile of its own, or clear what the test before has left`,
        strength: 1,
        evidence: [start.id],
      },
    ];
  },
};
