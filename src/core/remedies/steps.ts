import type { Statement } from '../drill/drill.ts';
import type { StepEvent } from '../evidence/event.ts';
import { quote, said, shorten } from '../evidence/labels.ts';
import type { Adviser, Advice } from './advice.ts';
import { inPassing, sameStep, shownAt, shownStep, type Case } from './case.ts';
import { onPage } from './asked.ts';
import { waitUntil } from './change.ts';
import { targetOf } from './targets.ts';
import { takenStatements } from './taken.ts';
import { momentAt } from './told.ts';

const acting = /^(press|type|keys|clear|dialog|window|frame|open|navigate)\b/;

/** Do the step that passing attempts do. */
export const takeStep: Adviser = (about) => {
  const { slots, subject, failing, passing } = about;
  const last = slots.findLastIndex(({ members }) => members[0]! >= 0);
  const first = 1 + failing.length;
  return (
    slots
      .map((slot, place) => ({ slot, place }))
      // What was looked for in vain, and gone on without, was left out as well.
      .filter(({ slot, place }) => {
        const own = subject.sketch.steps[slot.members[0]!];
        return place < last && (!own || (own.action === 'find' && own.error !== undefined));
      })
      .map(({ slot, place }) => {
        const acts = passing.flatMap((told, i) => {
          const step = told.sketch.steps[slot.members[first + i]!];
          return step && acting.test(step.sig) ? [{ step, moment: momentAt(told, step) }] : [];
        });
        return { label: acts[0]?.step.label ?? slot.label, place, took: acts.map(({ moment }) => moment) };
      })
      .filter(({ took }) => took.length > 0 && took.length >= passing.length * 0.8)
      .slice(0, 2)
      .map(({ label, place, took }): Omit<Advice, 'cause'> => {
        const next = slots.slice(place + 1).find(({ members }) => members[0]! >= 0)!;
        const step = subject.sketch.steps[next.members[0]!]!;
        return {
          kind: 'step',
          text: `Take the step ${said(label)} before ${said(step.label)}, whatever the page shows; where it is taken only if something is there, wait for that first`,
          because: `It was taken ${inPassing([took.length, passing.length])}, and left out here`,
          passing: [took.length, passing.length],
          failing: [0, 1],
          shown: [shownStep(momentAt(subject, step)), shownStep(took[0]!)],
          ...before(step, takenStatements(took[0]!)),
        };
      })
  );
};

/** Answer the dialog. */
export const answerDialog: Adviser = (about) => {
  const { subject, step, passing } = about;
  const { window: windows } = subject.evidence;
  const dialog = windows.findLast((one) => one.kind === 'dialog-opened');
  if (!dialog) return [];
  const text = dialog.data.text ?? '';
  const open = passing.filter(({ sketch }) => sketch.dialogs.some((one) => one.text === text));
  const answered = passing.flatMap((told) => {
    const event = told.evidence.steps.find((one) => one.data.action === 'dialog' && !one.data.error);
    return event ? [{ told, event }] : [];
  });
  const where = step ? ` before ${said(step.label)}` : '';
  return [
    {
      kind: 'dialog',
      text: answered.length
        ? `Answer the dialog ${quote(shorten(text, 48))}${where} as passing attempts do`
        : `Expect the dialog ${quote(shorten(text, 48))}${where}: answer it when it is open, or take away what opens it`,
      because: answered.length
        ? `It was answered ${inPassing([answered.length, passing.length])}`
        : passing.length
          ? `It opened ${inPassing([open.length, passing.length])}, and here ${open.length ? 'nobody answered it' : 'alone'}`
          : 'Nobody answered it; no passing attempt is known to hold this against',
      passing: passing.length ? [answered.length || open.length, passing.length] : null,
      failing: null,
      shown: [shownAt(subject, dialog), ...answered.slice(0, 1).map(({ told, event }) => shownAt(told, event))],
      ...before(step, dialogStatements(text, answered[0]?.event, open.length > 0 && open.length === passing.length)),
    },
  ];
};

const before = (step: Case['step'], statements: readonly Statement[]): Pick<Advice, 'change'> =>
  step && statements.length ? { change: { at: step.events, change: { do: 'put before', statements } } } : {};

/** A dialog that always comes is waited for; another is answered where it is open. Nobody's answer is a no. */
function dialogStatements(text: string, answered: StepEvent | undefined, always: boolean): Statement[] {
  const open = { kind: 'value', subject: { what: 'dialog' }, comparison: 'is', value: text } as const;
  const answer = { do: 'dialog', answer: answered?.data.command === 'accept alert' ? 'accept' : 'dismiss' } as const;
  return always ? [waitUntil(open), answer] : [{ do: 'when', that: open, then: answer }];
}

/** Make sure that there is something to check, from how much passing attempts had. */
export const countFirst: Adviser = (about) => {
  const { step, subject } = about;
  if (!step) return [];
  const passing = sameStep(about, step, 'passing');
  const counts = passing.flatMap(({ step: one }) => countOf(one) ?? []).filter((count) => count > 0);
  const here = countOf(step) ?? 0;
  return [
    {
      kind: 'condition',
      text: counts.length
        ? `Before the check at ${said(step.label)}, check that there is at least ${Math.min(...counts)} to look at`
        : `Before the check at ${said(step.label)}, check that there is anything to look at`,
      because: counts.length
        ? `There ${Math.min(...counts) === Math.max(...counts) ? `were ${counts[0]}` : `were ${Math.min(...counts)} to ${Math.max(...counts)}`} ${inPassing([counts.length, passing.length])}, and ${here} here`
        : `There ${here === 1 ? 'was 1' : `were ${here}`} here, so the check said nothing`,
      passing: counts.length ? [counts.length, passing.length] : null,
      failing: null,
      shown: [shownStep(momentAt(subject, step)), ...passing.slice(0, 1).map(shownStep)],
      ...before(step, atLeast(about, step, counts.length ? Math.min(...counts) : 1)),
    },
  ];
};

function atLeast({ subject, passing }: Case, step: NonNullable<Case['step']>, count: number): Statement[] {
  const all = [subject, ...passing].map(({ evidence }) => evidence);
  const of = step.locator === undefined ? undefined : targetOf(step.locator, all);
  return of
    ? [waitUntil({ kind: 'value', subject: { what: 'count', of }, comparison: 'is at least', value: String(count) })]
    : [];
}

/** How many a step found or read. */
function countOf({ value, matches }: Case['subject']['sketch']['steps'][number]): number | undefined {
  const number = value !== undefined && /^\d+$/.test(value) ? Number(value) : undefined;
  return (
    number ?? (value?.startsWith('[') ? value.split(',').filter((one) => one !== '[]').length : undefined) ?? matches
  );
}

/** Wait for the page to arrive before the step that came too soon after another. */
export const afterArrival: Adviser = (about) => {
  const { step, subject } = about;
  if (!step) return [];
  const at = momentAt(subject, step);
  const arrived = subject.evidence.page.find((one) => one.kind === 'navigation-committed' && one.at > at.at);
  const passing = sameStep(about, step, 'passing').filter(({ step: one }) => one.page !== undefined);
  const pages = new Set(passing.map(({ step: one }) => one.page));
  const [page] = pages;
  if (pages.size !== 1 || !page || step.page === page) return [];
  return [
    {
      kind: 'condition',
      text: `Before ${said(step.label)}, wait until the address is ${page}`,
      because: `It was done there ${inPassing([passing.length, passing.length])}, and here still on ${step.page ?? 'the page before'}`,
      passing: [passing.length, passing.length],
      failing: [0, 1],
      shown: [shownStep(at), ...(arrived ? [shownAt(subject, arrived)] : []), shownStep(passing[0]!)],
      ...before(step, [waitUntil(onPage(page))]),
    },
  ];
};
