import type { CauseCode } from '../causes/cause.ts';
import { causes } from '../causes/register.ts';
import type { Suspect } from '../causes/score.ts';
import type { Clue } from '../clues/clue.ts';
import type { Advice, Adviser } from './advice.ts';
import { placesOf, stepOf, type Case } from './case.ts';
import { putAway } from './covers.ts';
import { checkHeld, fixData, ownState } from './data.ts';
import { focusFirst } from './focus.ts';
import { mendExpectation, tellException, tellResult, tellService, withoutOutside } from './hand-over.ts';
import { lookAgain } from './look-again.ts';
import { limitsByPace, longerLimit } from './limits.ts';
import { lastingLocator } from './locators.ts';
import { replacePause } from './pauses.ts';
import { byItsPlace } from './by-place.ts';
import { onNextPage } from './next-page.ts';
import { acrossEngines, fitSize, fixClock } from './places.ts';
import { inItsOwn } from './scoped.ts';
import { afterArrival, answerDialog, countFirst, takeStep } from './steps.ts';
import { untilQuiet } from './quiet.ts';
import type { Told } from './told.ts';
import { findAgain, waitFor } from './wait-for.ts';
import { lookAtWindow } from './windows.ts';

/** Who advises on which cause, the most telling first. */
const advisers: Record<CauseCode, readonly Adviser[]> = {
  'early-action': [replacePause, waitFor, untilQuiet],
  'early-check': [replacePause, lookAgain, waitFor, untilQuiet],
  'navigation-race': [onNextPage, replacePause, afterArrival, waitFor, untilQuiet],
  'moving-target': [replacePause, waitFor, untilQuiet],
  'slow-response': [longerLimit],
  'replaced-element': [findAgain, waitFor, untilQuiet],
  'loose-locator': [lastingLocator, inItsOwn, waitFor, untilQuiet],
  'brittle-locator': [lastingLocator, inItsOwn, byItsPlace],
  'covered-target': [putAway, replacePause, waitFor, untilQuiet],
  'layout-variant': [fitSize],
  'wrong-window': [lookAtWindow],
  'unexpected-dialog': [answerDialog],
  'lost-input': [focusFirst, waitFor, untilQuiet, checkHeld],
  'missing-step': [takeStep],
  'random-data': [fixData],
  'shared-state': [ownState],
  'clock-dependent': [fixClock],
  'service-error': [tellService],
  'third-party-outage': [withoutOutside],
  'engine-difference': [acrossEngines],
  'starved-machine': [limitsByPace],
  'script-error': [tellException],
  'wrong-result': [tellResult],
  'empty-check': [countFirst, waitFor],
  'wrong-expectation': [mendExpectation],
};

/** A suspect less likely than this is not worth a remedy. */
const leastLikely = 0.12;
/** Most suspects that are advised on, and most said of each. */
const most = { suspects: 3, each: 4 } as const;

/** What is known of the attempts that advice is drawn from. */
export interface Known {
  subject: Told;
  /** Ranked, the most probable first; those cleared by a person left out. */
  suspects: readonly Suspect[];
  /** Others of its family, and those of its test that passed. */
  failing: readonly Told[];
  passing: readonly Told[];
  markup: (blob: string) => string | undefined;
}

/**
 * What to do about each suspect that stands, drawn from passing and failing attempts: conditions that were so
 * in all passing ones, locators that fit all, the window they looked at, what a sleep stood in for.
 * @returns empty when nothing is suspected, or the attempts show nothing that would help
 */
export function advise({ subject, suspects, failing, passing, markup }: Known): Advice[] {
  const slots = placesOf(subject, failing, passing);
  return suspects
    .filter((suspect) => suspect.probability >= leastLikely && suspect.for.length > 0)
    .slice(0, most.suspects)
    .flatMap((suspect) => {
      const weights = causes.find(({ code }) => code === suspect.cause)!;
      const weight = ({ code, strength }: Clue): number =>
        strength * (weights.for[code] ?? weights.doubts?.[code] ?? 0);
      const clues = [...suspect.for].sort((a, b) => weight(b) - weight(a));
      const step = stepOf(subject, clues);
      const about: Case = { subject, suspect, clues, failing, passing, slots, markup, ...(step ? { step } : {}) };
      return advisers[suspect.cause]
        .flatMap((adviser) => adviser(about))
        .filter((one, i, all) => all.findIndex(({ text }) => text === one.text) === i)
        .slice(0, most.each)
        .map((one) => ({ cause: suspect.cause, ...one, ...placed(one, subject) }));
    });
}

/** A wait was drawn from many commands: a drill may have its line from any of them. */
function placed({ change }: Omit<Advice, 'cause'>, { evidence }: Told): Pick<Advice, 'change'> {
  if (!change) return {};
  const within = evidence.steps.filter(({ id }) => change.at.includes(evidence.insideWait.get(id) ?? ''));
  return { change: { ...change, at: [...change.at, ...within.map(({ id }) => id)] } };
}
