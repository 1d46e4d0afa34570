import type { StepEvent } from '../evidence/event.ts';
import type { Evidence } from '../evidence/prepare.ts';
import { readValues } from '../failures/values.ts';
import type { Comparison } from './drill.ts';
import type { Compared } from './ends.ts';
import { numberOf } from './compare.ts';
import { foundBy, type Look } from './looks.ts';

/** A step in its attempt. */
export interface Asked {
  evidence: Evidence;
  step: StepEvent;
}

interface Told {
  expected: string;
  actual: string;
  ok: boolean;
  /** The test checked a part of what was read. */
  part?: boolean;
}

const shortestPart = 4;
const isPart = (actual: string | undefined, read: string): boolean =>
  actual !== undefined && actual.length >= shortestPart && read.includes(actual);

/** The check that a test told of what it had just read. */
function toldOf({ evidence, step }: Asked): Told | undefined {
  const next = evidence.steps.find((other) => other.at > step.at);
  const read = foundBy(step) ?? '';
  const note = evidence.notes.find(
    (one) =>
      one.kind === 'check' &&
      one.at >= step.at &&
      one.at <= (next?.at ?? Infinity) &&
      (one.data.actual === read || isPart(one.data.actual, read)),
  );
  const { expected, actual, ok } = note?.data ?? {};
  if (expected === undefined || actual === undefined) return undefined;
  // A test that checked a part of what it read: so much of it has to be there.
  return { expected, actual: ok !== false ? read : actual, ok: ok !== false, part: actual !== read };
}

/** How words say that two values are compared; where they say nothing, that they are the same. */
function comparisonIn(words: string): Comparison {
  if (/\bat least\b|\bor more\b|>=|\bno (?:less|fewer) than\b/i.test(words)) return 'is at least';
  if (/\bat most\b|<=|\bno more than\b/i.test(words)) return 'is at most';
  if (/\bcontain|\binclud/i.test(words))
    return /\bnot (?:to )?(?:contain|includ)/i.test(words) ? 'does not contain' : 'contains';
  if (/\bto match\b|\bmatch(?:es|ing)\b/i.test(words)) return 'matches';
  return 'is';
}

/** The plainest comparison under which all values that passed did. */
function comparisonOf(passed: readonly Told[], words: string): Comparison {
  if (passed.every(({ expected, actual }) => expected === actual)) {
    const said = comparisonIn(words);
    // Equal values say nothing of how they were compared, and words may speak of something else.
    return passed.length && said !== 'contains' ? 'is' : said;
  }
  if (passed.every(({ expected, actual }) => actual.includes(expected))) return 'contains';
  if (passed.every(({ expected, actual }) => numberOf(actual) >= numberOf(expected))) return 'is at least';
  if (passed.every(({ expected, actual }) => numberOf(actual) <= numberOf(expected))) return 'is at most';
  return comparisonIn(words);
}

/**
 * What a value was expected to be: told by the test, here or where it passed, or named by the message of the failure.
 * @param others the same read in attempts that passed
 */
export function expectedOf(own: Asked, others: readonly Asked[]): Compared | undefined {
  const told = toldOf(own);
  const passed = others.flatMap((one) => toldOf(one) ?? []).filter(({ ok }) => ok);
  const { message } = own.evidence.facts;
  if (told?.part) return { comparison: 'contains', value: told.expected };
  if (told) return made(comparisonOf([...passed, ...(told.ok ? [told] : [])], told.ok ? '' : message), told.expected);
  const isLast = own.step === own.evidence.failing;
  const read = foundBy(own.step);
  const values = isLast && read ? readValues(message) : undefined;
  if (!values) return undefined;
  // A message may name its two values the other way round.
  const expected = values.actual === read ? values.expected : values.expected === read ? values.actual : undefined;
  return expected === undefined ? undefined : made(comparisonIn(message), expected);
}

/** A pattern stands between slashes in messages. */
function made(comparison: Comparison, expected: string): Compared {
  if (comparison !== 'matches') return { comparison, value: expected };
  const between = /^\/(.*)\/[a-z]*$/s.exec(expected)?.[1];
  return between === undefined ? { comparison: 'is', value: expected } : { comparison, value: between };
}

/**
 * What each of several reads in a row was expected to give, where a test joined them to one text and the message names
 * both: `expected 'a, b, c' but got 'a, c, b'`.
 * @returns by id of the step that read
 */
export function expectedInRow({ facts, steps, failing }: Evidence): Map<string, string> {
  const out = new Map<string, string>();
  const values = readValues(facts.message);
  if (!values || !failing) return out;
  for (const between of [', ', ',', ' ', '; ', '\n']) {
    const [expected, actual] = [values.expected.split(between), values.actual.split(between)];
    if (actual.length < 2 || actual.length !== expected.length) continue;
    const reads = steps.filter(({ at, data }) => at <= failing.at && data.action === 'read').slice(-actual.length);
    const same = reads.length === actual.length && reads.every((step, i) => isSame(foundBy(step), actual[i]!));
    if (!same) continue;
    // A test may have made numbers of what it read: then what is to be there cannot be written as the page writes it.
    if (reads.some((step, i) => foundBy(step) !== actual[i])) {
      const written = new Map(reads.map((step, i) => [actual[i]!, foundBy(step)!]));
      reads.forEach((step, i) => {
        const text = written.get(expected[i]!);
        if (text !== undefined) out.set(step.id, text);
      });
    } else reads.forEach((step, i) => out.set(step.id, expected[i]!));
    return out;
  }
  return out;
}

const isSame = (read: string | undefined, told: string): boolean =>
  read === told ||
  (read !== undefined && Number.isFinite(Number(told)) && told !== '' && numberOf(read) === Number(told));

const mostHints = 6;
/** What a message names stands in its first lines. */
const mostMessage = 4000;

/** Values that the failure's message, or the checks after a wait, name: what was waited for may be among them. */
export function hintsOf({ facts, notes }: Evidence, look?: Look): string[] {
  const message = facts.message.slice(0, mostMessage);
  const after = look ? notes.find(({ kind, at }) => kind === 'check' && at >= look.steps.at(-1)!.at) : undefined;
  const own = !look || !look.met;
  const values = own ? readValues(facts.message) : undefined;
  const quoted = own ? [...message.matchAll(/"([^"\n]{1,200})"|'([^'\n]{1,200})'|“([^”\n]{1,200})”/g)] : [];
  const numbers = own ? [...message.matchAll(/(?<![\w.#-])(\d{1,6})(?![\w.])(?! ?m?s\b)/g)].map(([, n]) => n!) : [];
  const list = [
    ...(values ? [values.expected] : []),
    ...(after?.data.expected === undefined ? [] : [after.data.expected]),
    ...quoted.map(([, a, b, c]) => a ?? b ?? c ?? ''),
    ...numbers,
  ];
  return [...new Set(list)].filter(Boolean).slice(0, mostHints);
}
