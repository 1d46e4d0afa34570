import type { Clue, ClueKind } from './clue.ts';
import type { ClueCode } from './codes.ts';
import { isUnderstood } from '../evidence/understood.ts';
import type { Scene } from './scene.ts';
import { actedBeforeArrival } from './acted-before-arrival.ts';
import { actedBeforeReaction } from './acted-before-reaction.ts';
import { actedBeforeScript } from './acted-before-script.ts';
import { actedOnDisabled } from './acted-on-disabled.ts';
import { actedWhileUnderWay } from './acted-while-under-way.ts';
import { allStretched } from './all-stretched.ts';
import { anotherHeading } from './another-heading.ts';
import { answeredLater } from './answered-later.ts';
import { answeredOutOfOrder } from './answered-out-of-order.ts';
import { cameAfterLimit } from './came-after-limit.ts';
import { appearedAfterCheck } from './appeared-after-check.ts';
import { changedAfterCheck } from './changed-after-check.ts';
import { changedToExpected } from './changed-to-expected.ts';
import { clockShown } from './clock-shown.ts';
import { commandsSlow } from './commands-slow.ts';
import { conflictTold } from './conflict-told.ts';
import { dateDiffers } from './date-differs.ts';
import { dialogInTheWay } from './dialog-in-the-way.ts';
import { engineOnly } from './engine-only.ts';
import { errorSwallowed } from './error-swallowed.ts';
import { exceptionThrown } from './exception-thrown.ts';
import { fewerThanExpected } from './fewer-than-expected.ts';
import { foundElsewhere } from './found-elsewhere.ts';
import { generatedLocator } from './generated-locator.ts';
import { heldAcrossReplacement } from './held-across-replacement.ts';
import { moreThanUsual } from './more-than-usual.ts';
import { noElementTold } from './no-element-told.ts';
import { notInteractableTold } from './not-interactable-told.ts';
import { navigationCutOff } from './navigation-cut-off.ts';
import { nothingChecked } from './nothing-checked.ts';
import { nothingInFlight } from './nothing-in-flight.ts';
import { oddInput } from './odd-input.ts';
import { otherOfSeveral } from './other-of-several.ts';
import { otherPage } from './other-page.ts';
import { outsideFailed } from './outside-failed.ts';
import { ownRequestFailed } from './own-request-failed.ts';
import { pageAsks } from './page-asks.ts';
import { pageKeptAsking } from './page-kept-asking.ts';
import { pageOnTheWay } from './page-on-the-way.ts';
import { partOfExpected } from './part-of-expected.ts';
import { pictureBroken } from './picture-broken.ts';
import { placeOnly } from './place-only.ts';
import { placeholderRead } from './placeholder-read.ts';
import { polledDetached } from './polled-detached.ts';
import { pressCameToNothing } from './press-came-to-nothing.ts';
import { pressPointCovered } from './press-point-covered.ts';
import { pressPointFree } from './press-point-free.ts';
import { pressReachedOther } from './press-reached-other.ts';
import { pressedOfSeveralShown } from './pressed-of-several-shown.ts';
import { provoked } from './provoked.ts';
import { ranBeside } from './ran-beside.ts';
import { readWhileUnderWay } from './read-while-under-way.ts';
import { refusalTold } from './refusal-told.ts';
import { replacedAfterResponse } from './replaced-after-response.ts';
import { sameWrongValue } from './same-wrong-value.ts';
import { screenBlank } from './screen-blank.ts';
import { settledAtCheck } from './settled-at-check.ts';
import { severalMatch } from './several-match.ts';
import { sizeDiffers } from './size-differs.ts';
import { sleptBefore } from './slept-before.ts';
import { statedByPage, workedOut } from './stated-by-page.ts';
import { servedWithout } from './served-without.ts';
import { likeStandsThere } from './like-stands-there.ts';
import { listInOtherOrder } from './list-in-other-order.ts';
import { staleReferenceTold } from './stale-reference-told.ts';
import { stepLeftOut } from './step-left-out.ts';
import { stepOutOfOrder } from './step-out-of-order.ts';
import { stillOnPageBefore } from './still-on-page-before.ts';
import { targetHidden } from './target-hidden.ts';
import { targetKeptIdentity } from './target-kept-identity.ts';
import { targetMoved } from './target-moved.ts';
import { timeoutTold } from './timeout-told.ts';
import { troubleTold } from './trouble-told.ts';
import { typedNotHeld } from './typed-not-held.ts';
import { valueAloneDiffers } from './value-alone-differs.ts';
import { valueSinceCommit } from './value-since-commit.ts';
import { viewOnTheWay } from './view-on-the-way.ts';
import { waitEndedUnderWay } from './wait-ended-under-way.ts';
import { windowUnlooked } from './window-unlooked.ts';
import { wordingDiffers } from './wording-differs.ts';
import { wrongChoiceKept } from './wrong-choice-kept.ts';

/** Every kind of clue, in no order that matters: clues are sorted by time. */
export const clueKinds: readonly ClueKind[] = [
  ...provoked,
  timeoutTold,
  refusalTold,
  troubleTold,
  partOfExpected,
  noElementTold,
  fewerThanExpected,
  anotherHeading,
  notInteractableTold,
  placeholderRead,
  actedBeforeArrival,
  actedBeforeReaction,
  actedBeforeScript,
  actedOnDisabled,
  actedWhileUnderWay,
  allStretched,
  answeredLater,
  answeredOutOfOrder,
  cameAfterLimit,
  appearedAfterCheck,
  pressedOfSeveralShown,
  changedAfterCheck,
  changedToExpected,
  clockShown,
  commandsSlow,
  conflictTold,
  dateDiffers,
  dialogInTheWay,
  engineOnly,
  errorSwallowed,
  exceptionThrown,
  foundElsewhere,
  generatedLocator,
  heldAcrossReplacement,
  moreThanUsual,
  navigationCutOff,
  nothingChecked,
  nothingInFlight,
  oddInput,
  otherOfSeveral,
  otherPage,
  outsideFailed,
  ownRequestFailed,
  pageAsks,
  pageKeptAsking,
  pageOnTheWay,
  pictureBroken,
  placeOnly,
  polledDetached,
  sameWrongValue,
  screenBlank,
  stepOutOfOrder,
  pressCameToNothing,
  pressPointCovered,
  pressPointFree,
  pressReachedOther,
  ranBeside,
  readWhileUnderWay,
  replacedAfterResponse,
  settledAtCheck,
  severalMatch,
  sizeDiffers,
  sleptBefore,
  staleReferenceTold,
  statedByPage,
  likeStandsThere,
  listInOtherOrder,
  servedWithout,
  stepLeftOut,
  stillOnPageBefore,
  targetHidden,
  targetKeptIdentity,
  targetMoved,
  typedNotHeld,
  valueAloneDiffers,
  valueSinceCommit,
  waitEndedUnderWay,
  viewOnTheWay,
  windowUnlooked,
  wordingDiffers,
  workedOut,
  wrongChoiceKept,
];

/** Kinds that only ever speak against a cause: listed after the others, without a pennant. */
export const quietCodes: ReadonlySet<ClueCode> = new Set([
  targetKeptIdentity.code,
  pressPointFree.code,
  nothingInFlight.code,
  settledAtCheck.code,
  valueAloneDiffers.code,
]);

/** What rests on what was done and left undone: nothing where nobody can say what that was. */
const bySteps: ReadonlySet<ClueKind> = new Set([stepLeftOut, stepOutOfOrder, errorSwallowed, nothingChecked]);

/** All clues of one attempt, in time order. */
export function findClues(scene: Scene): Clue[] {
  const understood = isUnderstood(scene.steps);
  return clueKinds
    .filter((kind) => understood || !bySteps.has(kind))
    .flatMap((kind) => kind.find(scene).map((clue) => ({ code: kind.code, ...clue })))
    .sort((a, b) => a.at - b.at);
}
