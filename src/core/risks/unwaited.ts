import type { Scene } from '../clues/scene.ts';
import type { Sketch, SketchStep } from '../contrast/sketch.ts';
import { endOf } from '../evidence/event.ts';
import { duration, said } from '../evidence/labels.ts';
import { mean } from 'simple-statistics';
import {
  actBefore,
  begunBetween,
  everywhere,
  lineTold,
  pauseBetween,
  telling,
  usesPage,
  waitedBetween,
} from './ground.ts';
import type { Risk, RiskFinder } from './risk.ts';
import { chanceLate } from './slack.ts';

/** What comes so soon after an act is done came with it. */
const atOnceMs = 5;
/** Sooner than this it may be done by the page in one go, without anything to wait for, ms. */
const leastLateMs = 25;
/** What the page asks for within this of an act was asked for by it, ms. */
const askedWithinMs = 600;
/** That nothing hung on an answer cannot be told from fewer attempts. */
const neverFrom = 3;
/** Less likely than this is no risk worth a person's time. */
const leastChance = 0.004;

/** Something that a step uses, or may, that came between the last act and it. */
export interface Late {
  /** `what is read there`, or `GET /api/fare`. */
  what: string;
  /** The step is known to use it: it is what stands at its target. */
  sure: boolean;
  /** How long before the step it was there, ms, the least and in this attempt. */
  least: number;
  here: number;
  /** In how many attempts it was seen to come. */
  of: number;
  /** How likely it comes too late, 0…1. */
  chance: number;
  evidence: string[];
}

/** Times of one thing in one attempt: how long after the last act it came, and how long the test let pass. */
interface Times {
  took: number;
  given: number;
}

/** When what stands at the target of a step came to be what it was used as, after the act before it. */
function targetTimes(attempt: Sketch, step: SketchStep): Times | undefined {
  const act = actBefore(attempt, step);
  // What came while it was being looked for was waited for, by whoever looked.
  if (!act || step.arrived === undefined || step.arrived > step.at) return undefined;
  const took = step.arrived - act.until;
  return took > atOnceMs ? { took, given: step.at - act.until } : undefined;
}

/** Answers that came between the last act and a step; `undefined` for one that was still to come. */
function answerTimes(scene: Scene, attempt: Sketch, step: SketchStep): Map<string, Times | undefined> {
  const out = new Map<string, Times | undefined>();
  const act = actBefore(attempt, step);
  if (!act) return out;
  for (const one of begunBetween(telling(scene, attempt), act.at, Math.min(act.until + askedWithinMs, step.at))) {
    if (!one.own) continue;
    if (one.until > step.at || one.ended === 'open') out.set(one.key, undefined);
    else if (one.until > act.until + atOnceMs && !out.has(one.key))
      out.set(one.key, { took: one.until - act.until, given: step.at - act.until });
  }
  return out;
}

function lateOf(what: string, sure: boolean, times: readonly Times[], evidence: string[]): Late | undefined {
  const took = times.map((one) => one.took);
  if (times.length === 0 || Math.max(...took) < leastLateMs) return undefined;
  const left = times.map((one) => one.given - one.took);
  const chance = mean(times.map(({ given }) => chanceLate(took, given)));
  return { what, sure, least: Math.min(...left), here: left[0]!, of: times.length, chance, evidence };
}

/** What came between the last act and a step, the likeliest to be late first: nothing in the test waits for it. */
export function lateBefore(scene: Scene, step: SketchStep): Late[] {
  const all = everywhere(scene, step);
  const out: (Late | undefined)[] = [];
  const target = all.flatMap((one) => targetTimes(one.attempt, one.step) ?? []);
  if (target.length > all.length / 2 && targetTimes(scene.sketch, step))
    out.push(lateOf('what stands there', true, target, step.events));
  const answers = all.map((one) => answerTimes(scene, one.attempt, one.step));
  for (const [key, own] of answers[0]!) {
    if (!own) continue;
    const seen = answers.filter((one) => one.has(key)).map((one) => one.get(key));
    // Where it passed once without the answer, it does not need it.
    if (seen.some((one) => one === undefined) || seen.length <= all.length / 2) continue;
    const late = lateOf(key, false, seen as Times[], [
      ...step.events.slice(0, 1),
      ...scene.sketch.requests
        .filter((one) => one.key === key)
        .map(({ event }) => event)
        .slice(0, 1),
    ]);
    if (late) out.push({ ...late, chance: late.chance * (all.length < neverFrom ? 0.5 : 1) });
  }
  return out
    .flatMap((one) => (one && one.chance >= leastChance ? [one] : []))
    .sort((a, b) => Number(b.sure) - Number(a.sure) || b.chance - a.chance);
}

/** How plain it is that a step will once come too early. */
export const plainly = ({ sure, chance }: Late): number => Math.min(1, 0.15 + 3 * chance) * (sure ? 1 : 0.6);

export const cameBefore = ({ what, least, here, of }: Late): string =>
  `${what} had come ${duration(here)} before${of > 1 ? `, in ${of} passing attempts at least ${duration(least)}` : ''}`;

/** A step used what had just come, and nothing in the test waits for it. */
export const unwaited: RiskFinder = {
  kind: 'unwaited',
  about: 'A step used what had come shortly before, and nothing waited for it.',
  find: (scene) =>
    scene.sketch.steps.flatMap((step): Omit<Risk, 'kind'>[] => {
      const act = usesPage(step) ? actBefore(scene.sketch, step) : undefined;
      if (!act || waitedBetween(scene, act.at, step) || pauseBetween(scene, act.until, step)) return [];
      const [late] = lateBefore(scene, step);
      if (!late) return [];
      return [
        {
          ...lineTold(scene, step),
          at: act.until,
          until: step.at,
          summary: `Nothing waits before ${said(step.label)}: ${cameBefore(late)}`,
          change: late.sure
            ? `Wait until what ${said(step.label)} needs is there`
            : `Wait for the answer of ${late.what} before ${said(step.label)}`,
          strength: plainly(late),
          evidence: late.evidence,
        },
      ];
    }),
};

/** A fixed sleep stands for a wait: what it waits for may take longer another day. */
export const fixedSleep: RiskFinder = {
  kind: 'fixed-sleep',
  about: 'A fixed sleep stands where the test should wait for something.',
  find: (scene) =>
    scene.waits.flatMap((pause): Omit<Risk, 'kind'>[] => {
      if (pause.kind !== 'pause') return [];
      const step = scene.sketch.steps.find(
        (one) => one.at >= endOf(pause) - 1 && (usesPage(one) || one.action === 'open'),
      );
      if (!step || step.at - endOf(pause) > 200) return [];
      const slept = endOf(pause) - pause.at;
      const [late] = lateBefore(scene, step);
      return [
        {
          ...lineTold(scene, step),
          at: pause.at,
          until: endOf(pause),
          summary: `Slept ${duration(slept)} before ${said(step.label)}; ${late ? cameBefore(late) : 'nothing that the step uses was seen to come meanwhile'}`,
          change: late
            ? `Wait for ${late.sure ? `what ${said(step.label)} needs` : `the answer of ${late.what}`} instead of ${duration(slept)}`
            : `Wait for what the page shows when it is done, instead of ${duration(slept)}`,
          strength: late ? Math.max(0.5, plainly(late)) : 0.4,
          evidence: [pause.id, ...(late?.evidence ?? step.events.slice(0, 1))],
        },
      ];
    }),
};
