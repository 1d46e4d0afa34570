import { brittleLocator } from './faults/brittle-locator.ts';
import { clockDependent } from './faults/clock-dependent.ts';
import { coveredTarget } from './faults/covered-target.ts';
import { earlyAction } from './faults/early-action.ts';
import { earlyCheck } from './faults/early-check.ts';
import { emptyCheck } from './faults/empty-check.ts';
import { engineDifference } from './faults/engine-difference.ts';
import { layoutVariant } from './faults/layout-variant.ts';
import { looseLocator } from './faults/loose-locator.ts';
import { lostInput } from './faults/lost-input.ts';
import { missingStep } from './faults/missing-step.ts';
import { movingTarget } from './faults/moving-target.ts';
import { navigationRace } from './faults/navigation-race.ts';
import { randomData } from './faults/random-data.ts';
import { replacedElement } from './faults/replaced-element.ts';
import { scriptError } from './faults/script-error.ts';
import { serviceError } from './faults/service-error.ts';
import { sharedState } from './faults/shared-state.ts';
import { slowResponse } from './faults/slow-response.ts';
import { starvedMachine } from './faults/starved-machine.ts';
import { thirdPartyOutage } from './faults/third-party-outage.ts';
import { unexpectedDialog } from './faults/unexpected-dialog.ts';
import { wrongExpectation } from './faults/wrong-expectation.ts';
import { wrongResult } from './faults/wrong-result.ts';
import { wrongWindow } from './faults/wrong-window.ts';
import type { Mechanism } from './mechanism.ts';

/** Everything the yard can do wrong, by cause. */
export const mechanisms: readonly Mechanism[] = [
  ...earlyAction,
  ...earlyCheck,
  ...navigationRace,
  ...movingTarget,
  ...slowResponse,
  ...replacedElement,
  ...looseLocator,
  ...brittleLocator,
  ...coveredTarget,
  ...layoutVariant,
  ...wrongWindow,
  ...unexpectedDialog,
  ...lostInput,
  ...missingStep,
  ...randomData,
  ...sharedState,
  ...clockDependent,
  ...serviceError,
  ...thirdPartyOutage,
  ...starvedMachine,
  ...scriptError,
  ...wrongResult,
  ...emptyCheck,
  ...wrongExpectation,
  ...engineDifference,
];
