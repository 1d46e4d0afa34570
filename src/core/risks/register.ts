import { guarded } from '../background.ts';
import type { Scene } from '../clues/scene.ts';
import { lookedOnce, stepSometimes } from './branches.ts';
import { dayDependent, madeUpInput, secretShown } from './data.ts';
import { heldAcrossRedraw } from './held-across-redraw.ts';
import { leftUnderWay, pageLeftBehind } from './leaving.ts';
import { listMayBeEmpty } from './list-may-be-empty.ts';
import { firstOfSeveral, madeUpLocator } from './locators.ts';
import { placeMeasuredBefore } from './place-measured-before.ts';
import { readTooEarly } from './read-too-early.ts';
import type { Risk, RiskFinder, RiskKind } from './risk.ts';
import { coveredAtTimes, leftByOthers, outsideAnswer } from './surroundings.ts';
import { thinLimit } from './thin-limit.ts';
import { fixedSleep, unwaited } from './unwaited.ts';
import { windowByOrder } from './windows.ts';

/** Every kind of risk that is looked for. */
export const riskFinders: readonly RiskFinder[] = [
  fixedSleep,
  unwaited,
  readTooEarly,
  pageLeftBehind,
  leftUnderWay,
  thinLimit,
  heldAcrossRedraw,
  placeMeasuredBefore,
  firstOfSeveral,
  madeUpLocator,
  stepSometimes,
  lookedOnce,
  windowByOrder,
  listMayBeEmpty,
  madeUpInput,
  dayDependent,
  outsideAnswer,
  coveredAtTimes,
  leftByOthers,
  secretShown,
];

/** What a kind of risk is, in a sentence. */
export const riskAbout = (kind: RiskKind): string => riskFinders.find((one) => one.kind === kind)!.about;

/** Attempts of more steps than this are not looked through: each is held against those before it, and against others' own. */
const mostSteps = 1500;
/** More of one attempt help nobody. */
const mostRisks = 24;

/**
 * Why an attempt that passed may not pass the next time, the plainest first.
 * @returns nothing of attempts that did not pass, and of those without steps or with too many
 */
export function risksOf(scene: Scene): Risk[] {
  const { steps } = scene.sketch;
  if (scene.facts.outcome !== 'passed' || steps.length === 0 || scene.steps.length > mostSteps) return [];
  const found = new Map<string, Risk>();
  for (const { kind, find } of riskFinders)
    // One that cannot read what is there costs its own kind only.
    for (const risk of guarded(`looking for ${kind}`, () => find(scene)) ?? []) {
      const same = found.get(`${kind} ${risk.key}`);
      if (!same || same.strength < risk.strength) found.set(`${kind} ${risk.key}`, { kind, ...risk });
    }
  return [...found.values()].sort((a, b) => b.strength - a.strength).slice(0, mostRisks);
}
