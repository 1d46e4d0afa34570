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
];
