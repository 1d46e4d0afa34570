import type { ClueCode } from '../clues/codes.ts';
import { bearings, lonely, spokenAgainst, spokenFor } from '../trials/tells.ts';
import type { Cause } from './cause.ts';
import { brittleLocator } from './brittle-locator.ts';
import { clockDependent } from './clock-dependent.ts';
import { coveredTarget } from './covered-target.ts';
import { earlyAction } from './early-action.ts';
import { earlyCheck } from './early-check.ts';
import { emptyCheck } from './empty-check.ts';
import { engineDifference } from './engine-difference.ts';
import { layoutVariant } from './layout-variant.ts';
import { looseLocator } from './loose-locator.ts';
import { lostInput } from './lost-input.ts';
import { missingStep } from './missing-step.ts';
import { movingTarget } from './moving-target.ts';
import { navigationRace } from './navigation-race.ts';
import { randomData } from './random-data.ts';
import { replacedElement } from './replaced-element.ts';
import { scriptError } from './script-error.ts';
import { serviceError } from './service-error.ts';
import { sharedState } from './shared-state.ts';
import { slowResponse } from './slow-response.ts';
import { starvedMachine } from './starved-machine.ts';
import { thirdPartyOutage } from './third-party-outage.ts';
import { unexpectedDialog } from './unexpected-dialog.ts';
import { wrongExpectation } from './wrong-expectation.ts';
import { wrongResult } from './wrong-result.ts';
import { wrongWindow } from './wrong-window.ts';

/** What trials show weighs more than what a single attempt does, and speaks for several causes alike. */
const trialWeights = { several: 3, one: 5, against: 3, unmoved: 2.5 } as const;

/** A cause with what trials tell of it: the same for all, by what was acted on. */
function withTrials(cause: Cause): Cause {
  const pro: Partial<Record<ClueCode, number>> = {};
  const con: Partial<Record<ClueCode, number>> = {};
  for (const bearing of bearings) {
    const causes = spokenFor[bearing];
    if (!causes.includes(cause.code)) con[`provoked-by-${bearing}`] = trialWeights.against;
    else pro[`provoked-by-${bearing}`] = causes.length > 2 ? trialWeights.several : trialWeights.one;
  }
  for (const bearing of lonely)
    if (spokenAgainst[bearing] === cause.code) con[`unmoved-by-${bearing}`] = trialWeights.unmoved;
  return { ...cause, for: { ...cause.for, ...pro }, against: { ...cause.against, ...con } };
}

/** Every cause, in the order of the contract. */
export const causes: readonly Cause[] = [
  earlyAction,
  earlyCheck,
  navigationRace,
  movingTarget,
  slowResponse,
  replacedElement,
  looseLocator,
  brittleLocator,
  coveredTarget,
  layoutVariant,
  wrongWindow,
  unexpectedDialog,
  lostInput,
  missingStep,
  randomData,
  sharedState,
  clockDependent,
  serviceError,
  thirdPartyOutage,
  engineDifference,
  starvedMachine,
  scriptError,
  wrongResult,
  emptyCheck,
  wrongExpectation,
].map(withTrials);
