import type { PollEvent, StepEvent } from './event.ts';
import { locatorKey, locatorText } from './locator.ts';
import { median } from '../stats/median.ts';

/**
 * Waits inferred from plain WebDriver traffic. The same question put to the page again and again
 * at short gaps is a wait with polls; a silence of the client well above its usual pace is a fixed
 * sleep; a find that blocks while an implicit limit is set is an implicit wait.
 */
export interface InferredWaits {
  waits: StepEvent[];
  polls: PollEvent[];
  /** Command steps that are tries inside a wait, with the wait's id. */
  insideWait: Map<string, string>;
}

/** Longest silence between two tries that still belong together. Common pollers sleep 50 ms to 1 s. */
const longestPollGap = 1500;
/** A try that comes sooner than this after the one before was not polled, unless there are three or more. */
const shortestPollGap = 15;
/** A silence under this is the client's own business. */
const shortestSleep = 150;
/** How many times its usual pace the client has to be silent. */
const sleepRatio = 8;
/** A find that blocked at least this long under an implicit limit has waited. */
const shortestImplicit = 80;

/** Steps that only ask: what a wait is made of. */
export const asking: ReadonlySet<string> = new Set(['find', 'read', 'script']);

/** What a step asks the page about; nothing for one that does not ask. */
export function askedAbout(step: StepEvent): string | undefined {
  if (!asking.has(step.data.action)) return undefined;
  if (step.data.locator) return locatorKey(step.data.locator);
  if (step.data.action === 'script') return `script ${step.data.input ?? ''} ${givenTo(step)}`;
  return `${step.data.command} ${step.data.subject ?? ''}`;
}

/** What a script was given: elements by how they were found, since each look may find them anew. */
function givenTo({ data }: StepEvent): string {
  if (data.arguments === undefined) return '';
  return JSON.stringify(data.arguments, (_, value: unknown) => {
    const [id, ...more] = value !== null && typeof value === 'object' ? Object.values(value) : [];
    const known = more.length === 0 && typeof id === 'string' ? data.given?.[id] : undefined;
    return known ? locatorKey(known.locator) : value;
  });
}

/** One question: another script about the same element, or the same one with other arguments, is another. */
const signatureOf = (step: StepEvent): string =>
  [
    step.data.command,
    step.data.subject ?? '',
    askedAbout(step),
    ...(step.data.action === 'script' ? [step.data.input ?? '', givenTo(step)] : []),
  ].join(' ');

const findsAll = ({ data }: StepEvent): boolean => data.command.startsWith('find elements');

/** Whether a test that has read something of one element now counts them all: that is no further try at the one. */
export const countsNow = (tries: readonly StepEvent[], step: StepEvent): boolean =>
  findsAll(step) && !findsAll(tries[0]!) && tries.some(({ data }) => data.action === 'read');

/** What a try saw, in few words. */
function sawOf(step: StepEvent): string {
  if (step.data.error) return step.data.error.code;
  if (step.data.action === 'find') return step.data.result === 0 ? 'no match' : 'found';
  const text = typeof step.data.result === 'string' ? step.data.result : JSON.stringify(step.data.result ?? null);
  return text.length > 60 ? `${text.slice(0, 59)}…` : text;
}

/** @param commands the command steps of one attempt, in time order */
export function inferWaits(commands: readonly StepEvent[]): InferredWaits {
  const waits: StepEvent[] = [];
  const polls: PollEvent[] = [];
  const insideWait = new Map<string, string>();
  for (let i = 0; i < commands.length;) {
    const group = pollGroup(commands, i);
    if (group.length < 2) {
      i++;
      continue;
    }
    const { wait, tries } = waitFrom(group);
    waits.push(wait);
    polls.push(...tries);
    for (const step of group) insideWait.set(step.id, wait.id);
    i += group.length;
  }
  waits.push(...implicitWaits(commands, insideWait), ...fixedSleeps(commands, insideWait));
  waits.sort((a, b) => a.at - b.at);
  return { waits, polls, insideWait };
}

/** The longest run of commands from `start` that ask the same thing over and over; empty when it is no wait. */
function pollGroup(commands: readonly StepEvent[], start: number): StepEvent[] {
  const subject = askedAbout(commands[start]!);
  if (subject === undefined) return [];
  let end = start + 1;
  while (end < commands.length) {
    const before = commands[end - 1]!;
    const step = commands[end]!;
    if (countsNow(commands.slice(start, end), step)) break;
    if (askedAbout(step) !== subject || step.at - (before.until ?? before.at) > longestPollGap) break;
    end++;
  }
  const group = commands.slice(start, end);
  // What was found each time was not waited for: it was looked up again.
  if (group.every(({ data }) => data.command === 'find element' && !data.error)) return [];
  const bySignature = new Map<string, StepEvent[]>();
  for (const step of group) {
    const same = bySignature.get(signatureOf(step));
    if (same) same.push(step);
    else bySignature.set(signatureOf(step), [step]);
  }
  const repeats = Math.max(...[...bySignature.values()].map((same) => same.length));
  if (repeats < 2) return [];
  const polled = group.some((step, i) => i > 0 && step.at - (group[i - 1]!.until ?? step.at) >= shortestPollGap);
  return polled || repeats >= 3 ? group : [];
}

function waitFrom(group: readonly StepEvent[]): { wait: StepEvent; tries: PollEvent[] } {
  const first = group[0]!;
  const last = group.at(-1)!;
  const id = `w:${first.id}`;
  // In a find-then-read loop the reads say what was waited for; a failed find is a try of its own.
  const reads = group.filter((step) => step.data.action !== 'find');
  const telling = group.filter((step) => !reads.length || step.data.action !== 'find' || step.data.error);
  const subject = reads.at(-1) ?? last;
  const what = first.data.locator ? `“${locatorText(first.data.locator)}”` : 'a script to answer';
  const aspect = subject.data.action === 'read' && subject.data.subject ? `${subject.data.subject} of ` : '';
  const met = !last.data.error && last.data.result !== 0;
  const wait: StepEvent = {
    id,
    lane: 'step',
    kind: 'wait',
    at: first.at,
    until: last.until ?? last.at,
    clock: 'recorder',
    data: {
      command: 'wait',
      action: 'wait',
      label: `Wait for ${aspect}${what}`,
      ...(first.data.locator ? { locator: first.data.locator } : {}),
      polls: telling.length,
      ok: met,
      result: sawOf(last),
      subject: subject.data.subject,
      input: subject.data.action === 'script' ? subject.data.input : undefined,
      inferred: true,
    },
  };
  const tries = telling.map((step, i): PollEvent => ({
    id: `p:${step.id}`,
    lane: 'poll',
    kind: 'poll',
    at: step.at,
    until: step.until,
    clock: 'recorder',
    data: { wait: id, saw: sawOf(step), ok: i === telling.length - 1 && met },
  }));
  return { wait, tries };
}

function implicitWaits(commands: readonly StepEvent[], taken: ReadonlyMap<string, string>): StepEvent[] {
  const found: StepEvent[] = [];
  let limit = 0;
  for (const step of commands) {
    if (step.data.command === 'set timeouts' && typeof step.data.implicit === 'number') limit = step.data.implicit;
    const used = (step.until ?? step.at) - step.at;
    if (step.data.action !== 'find' || limit === 0 || used < shortestImplicit || taken.has(step.id)) continue;
    found.push({
      id: `i:${step.id}`,
      lane: 'step',
      kind: 'wait',
      at: step.at,
      until: step.until,
      clock: 'recorder',
      data: {
        command: 'implicit wait',
        action: 'wait',
        label: `Wait inside the find, up to ${limit} ms`,
        locator: step.data.locator,
        limitMs: limit,
        ok: !step.data.error,
        inferred: true,
      },
    });
  }
  return found;
}

function fixedSleeps(commands: readonly StepEvent[], taken: ReadonlyMap<string, string>): StepEvent[] {
  const gaps: { after: StepEvent; from: number; gap: number }[] = [];
  for (let i = 1; i < commands.length; i++) {
    const before = commands[i - 1]!;
    const step = commands[i]!;
    const from = before.until ?? before.at;
    const sameWait = taken.has(step.id) && taken.get(step.id) === taken.get(before.id);
    if (!sameWait) gaps.push({ after: before, from, gap: step.at - from });
  }
  if (gaps.length === 0) return [];
  const pace = Math.max(1, median(gaps.map((gap) => gap.gap)));
  return gaps
    .filter(({ gap }) => gap >= Math.max(shortestSleep, sleepRatio * pace))
    .map(({ after, from, gap }) => ({
      id: `s:${after.id}`,
      lane: 'step',
      kind: 'pause',
      at: from,
      until: from + gap,
      clock: 'recorder',
      data: { command: 'pause', action: 'pause', label: `Nothing sent for ${Math.round(gap)} ms`, inferred: true },
    }));
}
