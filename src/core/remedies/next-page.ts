import type { SketchStep } from '../contrast/sketch.ts';
import { quote } from '../evidence/labels.ts';
import { segmentAt } from '../evidence/lifelines.ts';
import type { Advice, Adviser } from './advice.ts';
import { sameStep, type Case } from './case.ts';
import { waitUntil } from './change.ts';
import { replacePause } from './pauses.ts';
import { targetOf } from './targets.ts';
import { waitFor } from './wait-for.ts';

/** What does something to a page, and is lost with it. */
const acting: ReadonlySet<SketchStep['action']> = new Set(['press', 'type', 'keys', 'clear']);

/**
 * Wait for the next page before acting on it: what was done on a page that was being left is lost, and that shows only
 * when what should have come of it is waited for, steps later.
 */
export const onNextPage: Adviser = (about) => {
  const step = actOnOldPage(about);
  if (!step) return [];
  const sign = signOfReady(about, step);
  return [replacePause, waitFor]
    .flatMap((adviser) => adviser({ ...about, step }))
    .map((advice) => (sign === undefined ? advice : andReady(about, advice, sign)));
};

/** The first act that this attempt did on the page of the act before, and every passing attempt on another one. */
function actOnOldPage(about: Case): SketchStep | undefined {
  const { steps } = about.subject.sketch;
  const until = about.step ? steps.indexOf(about.step) : steps.length;
  const acts = steps.slice(0, until).filter(({ action }) => acting.has(action));
  return acts.find((act, i) => {
    if (act.page === undefined || act.page !== acts[i - 1]?.page) return false;
    const passing = sameStep(about, act, 'passing');
    return passing.length > 0 && passing.every(({ step }) => step.page !== undefined && step.page !== act.page);
  });
}

/** A mark on the document as a whole says how far its page is; other elements do so where several pages have them. */
const ofDocument = /^css=(?:html|body)\b/;

/**
 * By what the test knows that a page is ready: what it looks for first on each page that it opens. A page that came by a
 * press is there before it listens, and nobody waits for that.
 * @returns the locator's key, where passing attempts had it at the act, too
 */
function signOfReady(about: Case, act: SketchStep): string | undefined {
  const { steps } = about.subject.sketch;
  const first = steps.flatMap(({ action }, i) => (action === 'open' ? [steps[i + 1]] : []));
  const sign = first[0]?.locator;
  if (
    sign === undefined ||
    sign === act.locator ||
    first.some((one) => one?.locator !== sign || acting.has(one.action))
  )
    return undefined;
  if (first.length < 2 && !ofDocument.test(sign)) return undefined;
  const so = sameStep(about, act, 'passing').map(({ told, at }) => {
    const line = told.evidence.lifelines.get(sign);
    return line && segmentAt(line, at)?.state.node;
  });
  return so.every((node) => node !== undefined && node !== null) ? sign : undefined;
}

/** The advice, and then the sign. */
function andReady(about: Case, advice: Omit<Advice, 'cause'>, sign: string): Omit<Advice, 'cause'> {
  const target = targetOf(
    sign,
    [about.subject, ...about.passing].map(({ evidence }) => evidence),
  );
  const { change } = advice;
  if (!target || change?.change.do !== 'put before') return advice;
  const statements = [...change.change.statements, waitUntil({ kind: 'there', target })];
  return {
    ...advice,
    text: `${advice.text}, and then until ${quote(sign.replace(/^css=/, ''))} is there, as on the pages that the test opens`,
    change: { ...change, change: { ...change.change, statements } },
  };
}
