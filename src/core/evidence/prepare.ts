import type { Environment, Outcome } from './attempt.ts';
import type {
  BodyEvent,
  ConsoleEvent,
  EvidenceEvent,
  NetworkEvent,
  NoteEvent,
  PageEvent,
  PollEvent,
  ScreenEvent,
  StepEvent,
  WindowEvent,
} from './event.ts';
import type { Thresholds } from '../clues/thresholds.ts';
import type { FrameRules } from '../failures/stack.ts';
import { endOf, eventsOf } from './event.ts';
import { aftermathOf } from './aftermath.ts';
import { quote, shorten, stepLabel } from './labels.ts';
import { lifelinesOf, nameAt, type Lifeline } from './lifelines.ts';
import { byScript, locatorKey } from './locator.ts';
import { readMessage } from '../failures/message.ts';
import { asMeant } from './meant-press.ts';
import { asking, inferWaits } from './waits.ts';

/** What the analysis is told about an attempt besides its events. */
export interface AttemptFacts {
  outcome: Outcome;
  message: string;
  stack: string;
  /** The test's own file, when it is known. */
  file?: string;
  environment: Environment;
  /** What the project says of its own stacks. */
  rules?: FrameRules;
  /** From where on something counts as a clue, where the workspace says so. */
  thresholds?: Thresholds;
}

/** The evidence of one attempt, sorted by lane and indexed: what every clue reads. */
export interface Evidence {
  facts: AttemptFacts;
  /** Commands in time order, with their labels. */
  steps: StepEvent[];
  /** Waits and pauses inferred from the commands. */
  waits: StepEvent[];
  polls: PollEvent[];
  insideWait: ReadonlyMap<string, string>;
  lifelines: ReadonlyMap<string, Lifeline>;
  network: NetworkEvent[];
  /** What went with some of the exchanges. */
  bodies: BodyEvent[];
  console: ConsoleEvent[];
  page: PageEvent[];
  window: WindowEvent[];
  notes: NoteEvent[];
  screens: ScreenEvent[];
  /** Last time any evidence speaks of, ms. */
  until: number;
  /** The step at which the attempt failed, when one can be named. */
  failing?: StepEvent;
}

/** Sorts, infers and labels: from raw events to what the clues read. Does not change the events it is given. */
export function prepare(events: readonly EvidenceEvent[], facts: AttemptFacts): Evidence {
  const until = events.reduce((latest, event) => Math.max(latest, endOf(event)), 0);
  const commands = eventsOf(events, 'step').filter((step) => step.kind === 'command');
  const lifelines = new Map(lifelinesOf(eventsOf(events, 'element'), until).map((line) => [line.locator, line]));
  const pages = eventsOf(events, 'page');
  const steps = actsNamed(
    commands.map((step) => relabelled(step, lifelines)),
    pages,
  );
  const { waits, polls, insideWait } = inferWaits(steps);
  const notes = eventsOf(events, 'note');
  const evidence: Evidence = {
    facts,
    steps,
    waits,
    polls,
    insideWait,
    lifelines,
    network: eventsOf(events, 'network'),
    bodies: eventsOf(events, 'body'),
    console: eventsOf(events, 'console'),
    page: pages,
    window: eventsOf(events, 'window'),
    notes,
    screens: eventsOf(events, 'screen').filter((screen) => screen.kind !== 'video'),
    until,
  };
  const failing = failingStep(evidence);
  const meant = failing && asMeant(failing, facts.message, facts.stack);
  if (meant && meant !== failing) {
    const named = relabelled({ ...meant, data: { ...meant.data, label: meant.data.action } }, lifelines);
    evidence.steps = steps.map((step) => (step === failing ? named : step));
    evidence.failing = named;
  } else evidence.failing = failing;
  return evidence;
}

/** A page tells of what reached it within this of the command that sent it, ms. */
const toldWithinMs = 60;

/** What was done at a point, or with keys, is called by what the page says was there. */
function actsNamed(steps: StepEvent[], page: readonly PageEvent[]): StepEvent[] {
  const [presses, focuses] = [page.filter(({ kind }) => kind === 'press'), page.filter(({ kind }) => kind === 'focus')];
  if (presses.length === 0 && focuses.length === 0) return steps;
  return steps.map((step) => {
    const { command, label } = step.data;
    const byPlace = command === 'perform actions';
    if (!byPlace && !(step.data.locator?.using === byScript && step.data.action === 'press')) return step;
    const end = endOf(step) + toldWithinMs;
    const at =
      !byPlace || pressedAtPoint.test(label)
        ? presses.find((one) => one.at >= step.at - toldWithinMs && one.at <= end)
        : typedSomewhere.test(label)
          ? focuses.findLast((one) => one.at <= end)
          : undefined;
    const name = /“(.{1,60})”$/.exec(at?.data.label ?? '')?.[1] ?? at?.data.label;
    if (!at || !name) return step;
    const said = `${at.kind === 'press' ? 'Press on' : 'Type in'} ${quote(shorten(name, 40))}`;
    return { ...step, data: { ...step.data, label: said } };
  });
}

/** The sentence of a press of which only the point is known, and of letters that went wherever they went. */
const pressedAtPoint = /^Press on -?\d{1,6}, -?\d{1,6}$/;
const typedSomewhere = /^Press “…”$/;

function relabelled(step: StepEvent, lifelines: ReadonlyMap<string, Lifeline>): StepEvent {
  const line = step.data.locator && lifelines.get(locatorKey(step.data.locator));
  const at = step.data.action === 'find' ? endOf(step) : step.at;
  const name = line && nameAt(line, at);
  // Without a name for the element, what its source called the step says more than its locator.
  const { label: given, action, command } = step.data;
  const told = name === undefined && given !== '' && given !== action && given !== command;
  const label = told ? given : stepLabel(step.data, name);
  return { ...step, data: { ...step.data, label } };
}

/**
 * The step an attempt failed at. A command whose error the outcome's message repeats, else the last
 * command that failed and that nothing but tidying came after; else the last thing read before the
 * check that failed. What a runner sends after the failure, a picture or the source, is not the test's.
 */
function failingStep({ steps: all, facts, notes }: Evidence): StepEvent | undefined {
  if (facts.outcome !== 'failed' && facts.outcome !== 'errored') return undefined;
  const own = all.slice(0, all.length - aftermathOf(all, facts.message));
  const steps = own.length ? own : all;
  const names = (step: StepEvent): boolean =>
    step.data.error !== undefined && facts.message.includes(firstLine(step.data.error.message));
  const failed = steps.filter((step) => step.data.error);
  const named = failed.findLast(names) ?? all.findLast(names);
  if (named) return named;
  const acting = failed.findLast(
    (step) => step.data.action !== 'find' || facts.message.includes(step.data.error!.code),
  );
  const survived = acting !== undefined && steps.some((step) => step.at > acting.at && looks(step));
  if (acting && !survived && !told(facts.message)) return acting;
  // A wait of the test's own ran out: it is the question that was asked last.
  if (ranOut.test(facts.message) && !told(facts.message)) {
    const asked = steps.filter((step) => asking.has(step.data.action));
    const { locator } = readMessage(facts.message, facts.stack);
    const spokenOf = locator && asked.findLast((step) => step.data.locator?.value === locator.value);
    const last = spokenOf ?? asked.at(-1);
    if (last) return last;
  }
  const check = notes.findLast((note) => note.kind === 'check' && note.data.ok === false);
  const before = steps.filter((step) => step.at <= (check?.at ?? Infinity));
  // A check that counted was made of what was counted, whatever was read besides.
  const actual = check?.data.actual;
  const counted =
    actual !== undefined && /^\d+$/.test(actual)
      ? before.findLast(({ data }) => data.action === 'find' && String(data.result) === actual)
      : undefined;
  if (counted && before.at(-1) === counted) return counted;
  const read = before.findLast(
    (step) => step.data.action === 'read' && !step.data.error && mentions(facts.message, step),
  );
  return read ?? acting ?? before.findLast((step) => step.data.action === 'read') ?? failed.at(-1) ?? before.at(-1);
}

const firstLine = (text: string): string => text.split('\n')[0]!.trim();

/** Carried out, and of the page: a test that went on to this had got over what failed before. */
const looks = ({ data }: StepEvent): boolean =>
  !data.error && (asking.has(data.action) || data.action === 'press' || data.action === 'type');

const ranOut = /\btime(?:d)?[ -]?out\b|\bwaiting for\b|\bwaited\b/i;

const told = (message: string): boolean => /\bexpected\b|\bassert/i.test(message);

const mentions = (message: string, step: StepEvent): boolean =>
  typeof step.data.result === 'string' && step.data.result !== '' && message.includes(step.data.result);
