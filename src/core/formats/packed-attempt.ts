import { outcomes, untoldBrowser, type Environment, type Outcome } from '../evidence/attempt.ts';
import { isAttemptNumber, mostAttempts } from '../records.ts';
import { isTime } from './times.ts';

/** What a pack says of its attempt apart from its events. */
export interface PackedAttempt {
  run: { name: string; startedAt: number; commit?: string; branch?: string };
  test: { suite: string; title: string; file?: string };
  /** Left out, it is the next of its test in the run. */
  number?: number;
  outcome: Outcome;
  environment: Environment;
  startedAt: number;
  durationMs: number;
  message: string;
  stack: string;
  interruptedBy?: string;
  labels: Record<string, unknown>;
}

type Json = Record<string, unknown>;

const object = (value: unknown): Json | undefined =>
  value !== null && typeof value === 'object' && !Array.isArray(value) ? (value as Json) : undefined;

/** No attempt takes longer, ms. */
const longestMs = 1e10;
const longestFailure = 200_000;
const mostTexts = 500;

/** A text, of which no more is kept than a screen or a message holds. */
function text(value: unknown, name: string, most: number): string {
  if (typeof value !== 'string') throw new Error(`pack.json: “${name}” must be a text`);
  return value.slice(0, most);
}

const maybeText = (value: unknown, name: string, most: number): string | undefined =>
  value === undefined || value === null ? undefined : text(value, name, most);

function time(value: unknown, name: string): number {
  if (typeof value !== 'number' || !isTime(value))
    throw new Error(`pack.json: “${name}” must be epoch milliseconds between 1970 and 2200`);
  return value;
}

/**
 * Reads what a pack says of its attempt. What other attempts are counted and compared by has to be right; labels of
 * another kind than ours are left out.
 * @throws Error in words
 */
export function readPackedAttempt(raw: unknown): PackedAttempt {
  const attempt = object(raw);
  const run = object(attempt?.run);
  const test = object(attempt?.test);
  if (!attempt || !run || !test) throw new Error('pack.json lacks the attempt, its run or its test');
  const { number, outcome, durationMs } = attempt;
  if (!(outcomes as readonly unknown[]).includes(outcome))
    throw new Error(`pack.json: “outcome” must be one of ${outcomes.join(', ')}`);
  if (number !== undefined && number !== null && !isAttemptNumber(number))
    throw new Error(`pack.json: “number” must be a whole number from 1 to ${mostAttempts}`);
  if (typeof durationMs !== 'number' || !(durationMs >= 0 && durationMs <= longestMs))
    throw new Error('pack.json: “durationMs” must be milliseconds, of four months at most');
  const named = text(run.name, 'run.name', 1000);
  const title = text(test.title, 'test.title', 2000);
  if (!named || !title) throw new Error('pack.json lacks the name of the run or the title of the test');
  const file = maybeText(test.file, 'test.file', 1000);
  const commit = maybeText(run.commit, 'run.commit', 200);
  const branch = maybeText(run.branch, 'run.branch', 500);
  const interruptedBy = maybeText(attempt.interruptedBy, 'interruptedBy', 2000);
  return {
    run: {
      name: named,
      startedAt: time(run.startedAt, 'run.startedAt'),
      ...(commit === undefined ? {} : { commit }),
      ...(branch === undefined ? {} : { branch }),
    },
    test: {
      suite: maybeText(test.suite, 'test.suite', 1000) ?? '',
      title,
      ...(file === undefined ? {} : { file }),
    },
    ...(isAttemptNumber(number) ? { number } : {}),
    outcome: outcome as Outcome,
    environment: environment(attempt.environment),
    startedAt: time(attempt.startedAt, 'startedAt'),
    durationMs,
    message: text(attempt.message ?? '', 'message', longestFailure),
    stack: text(attempt.stack ?? '', 'stack', longestFailure),
    ...(interruptedBy === undefined ? {} : { interruptedBy }),
    labels: labels(object(attempt.labels) ?? {}),
  };
}

function environment(raw: unknown): Environment {
  const told = object(raw);
  if (!told) throw new Error('pack.json: “environment” must be an object with “browser” and “version”');
  const { width, height } = told;
  const side = (value: unknown, name: string): number | undefined => {
    if (value === undefined || value === null) return undefined;
    if (!Number.isInteger(value) || (value as number) < 1 || (value as number) > 20_000)
      throw new Error(`pack.json: “environment.${name}” must be a whole number from 1 to 20,000`);
    return value as number;
  };
  const [w, h] = [side(width, 'width'), side(height, 'height')];
  const platform = maybeText(told.platform, 'environment.platform', 60);
  const place = maybeText(told.place, 'environment.place', 100);
  return {
    browser: maybeText(told.browser, 'environment.browser', 60) || untoldBrowser,
    version: maybeText(told.version, 'environment.version', 60) ?? '',
    ...(platform === undefined ? {} : { platform }),
    ...(w === undefined ? {} : { width: w }),
    ...(h === undefined ? {} : { height: h }),
    ...(place === undefined ? {} : { place }),
  };
}

const isShort = (value: unknown, most = 1000): value is string => typeof value === 'string' && value.length <= most;

/** A map of texts, as far as it is one. */
function texts(raw: unknown): Record<string, string> | undefined {
  const entries = Object.entries(object(raw) ?? {})
    .filter((entry): entry is [string, string] => isShort(entry[1]))
    .slice(0, mostTexts);
  return entries.length ? Object.fromEntries(entries) : undefined;
}

/** Labels that are known, of the kind they are known to be. */
function labels(raw: Json): Json {
  const out: Json = {};
  if (Array.isArray(raw.tags)) out.tags = raw.tags.filter((tag) => isShort(tag, 200)).slice(0, mostTexts);
  for (const key of ['labels', 'properties'] as const) {
    const known = texts(raw[key]);
    if (known) out[key] = known;
  }
  for (const key of ['shard', 'worker', 'detail', 'summed'] as const) if (isShort(raw[key])) out[key] = raw[key];
  for (const key of ['untimed', 'secrets'] as const) if (raw[key] === true) out[key] = true;
  if (raw.zone === null || (Number.isInteger(raw.zone) && Math.abs(raw.zone as number) <= 14 * 60)) out.zone = raw.zone;
  const told = object(raw.told);
  const was = object(told?.was);
  if (told && was && isShort(told.by) && isShort(told.why) && isShort(was.suite) && isShort(was.title, 2000))
    out.told = { by: told.by, why: told.why, was: { suite: was.suite, title: was.title } };
  return out;
}
