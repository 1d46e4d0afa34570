import { quote, said, shorten } from '../evidence/labels.ts';
import { maskMark } from '../evidence/masking.ts';
import type { Statement } from '../drill/drill.ts';
import type { SketchStep } from '../contrast/sketch.ts';
import type { Advice, Adviser } from './advice.ts';
import { targetOf } from './targets.ts';
import { inPassing, sameStep, shownStep, type Case } from './case.ts';
import { commandOf, momentAt } from './told.ts';

/** Most values that are told. */
const mostTold = 3;

/** Fix the generated data that the outcome hangs on. */
export const fixData: Adviser = (about) => {
  const { step, subject } = about;
  const typed = step?.action === 'type' ? step : subject.sketch.steps.findLast((one) => one.action === 'type');
  if (!typed?.input) return [];
  const passing = sameStep(about, typed, 'passing').filter((one) => one.step.input !== undefined);
  const inputs = [...new Set(passing.map((one) => one.step.input!))];
  const others = inputs.filter((one) => one !== typed.input);
  if (others.length === 0) return [];
  // What was typed is kept in full with its command; a sketch shortens it. What is masked cannot be typed again.
  const text = passing
    .map((one) => commandOf(one.told, one.step)?.data.input)
    .find((one) => one !== undefined && !one.includes(maskMark));
  return [
    {
      kind: 'data',
      text: `Type the same value in ${fieldOf(typed.label)} on every run, and give ${quote(shorten(typed.input, 40))} a test of its own that says what should happen with it`,
      because: `${others
        .slice(0, mostTold)
        .map((one) => quote(shorten(one, 24)))
        .join(
          ', ',
        )}${others.length > mostTold ? ` and ${others.length - mostTold} more` : ''} ${others.length === 1 ? 'was' : 'were'} typed ${inPassing([passing.length, passing.length])}; the failing value is none of them`,
      passing: [passing.length, passing.length],
      failing: null,
      shown: [shownStep(momentAt(subject, typed)), ...passing.slice(0, 2).map(shownStep)],
      ...(text === undefined ? {} : { change: { at: typed.events, change: { do: 'type instead', text } } as const }),
    },
  ];
};

/** What was typed into: the end of the step's own sentence. */
const fieldOf = (label: string): string => / in (“[^“”]+”)$/.exec(label)?.[1] ?? said(label);

/** Look at what the field holds after typing, and wait for what empties it before. */
export const checkHeld: Adviser = (about) => {
  const { step, subject } = about;
  const typed = step?.action === 'type' ? step : subject.sketch.steps.findLast((one) => one.action === 'type');
  if (!typed) return [];
  const held = subject.evidence.page.filter((one) => one.kind === 'held-value' && one.at >= typed.at);
  const last = held.at(-1);
  return [
    {
      kind: 'step',
      text: `After ${said(typed.label)}, check that the field holds it, and type it again if it does not`,
      because: last
        ? `The field was last seen holding ${quote(shorten(last.data.text ?? '', 40))} where ${quote(shorten(typed.input ?? '', 40))} was typed`
        : `${quote(shorten(typed.input ?? '', 40))} was typed and nothing looked at what came of it`,
      passing: null,
      failing: null,
      shown: [
        shownStep(momentAt(subject, typed)),
        ...(last ? [{ attempt: subject.id, event: last.id, at: last.at }] : []),
      ],
      ...typedAgain(about, typed),
    },
  ];
};

/** Empties the field and types again, where it does not hold what was typed. */
function typedAgain({ subject }: Case, typed: SketchStep): Pick<Advice, 'change'> {
  const text = commandOf(momentAt(subject, typed).told, typed)?.data.input;
  const target = typed.locator === undefined ? undefined : targetOf(typed.locator, [subject.evidence]);
  if (!target || text === undefined || text.includes(maskMark)) return {};
  const lost = {
    kind: 'value',
    subject: { what: 'property', key: 'value', of: target },
    comparison: 'is not',
    value: text,
  } as const;
  const statements: Statement[] = [
    { do: 'when', that: lost, then: { do: 'clear', target } },
    { do: 'when', that: lost, then: { do: 'type', text, target } },
  ];
  return { change: { at: typed.events, change: { do: 'put after', statements } } };
}

/** Give the attempt data of its own, or a state it makes itself. */
export const ownState: Adviser = (about) => {
  const { step, subject, clues } = about;
  if (!step) return [];
  const passing = sameStep(about, step, 'passing');
  const values = [...new Set(passing.flatMap((one) => one.step.value ?? one.step.text ?? []))];
  const clue = clues[0];
  return [
    {
      kind: 'data',
      text: `Let the test make the data it needs before ${said(step.label)}, and use data that no other attempt uses`,
      because: [
        ...(clue ? [clue.summary] : []),
        ...(values.length === 1
          ? [`${quote(shorten(values[0]!, 40))} was seen ${inPassing([passing.length, passing.length])}`]
          : []),
      ].join('; '),
      passing: values.length === 1 ? [passing.length, passing.length] : null,
      failing: null,
      shown: [
        shownStep(momentAt(subject, step)),
        ...(clue?.evidence[0] ? [{ attempt: subject.id, event: clue.evidence[0], at: clue.at }] : []),
        ...passing.slice(0, 1).map(shownStep),
      ],
    },
  ];
};
