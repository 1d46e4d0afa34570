import { LaunchRefused, type Launch, type PromptHandling } from './launch-options.ts';
import type { AttemptRequest } from './sink.ts';
import { createMasker } from '../../core/evidence/masking.ts';
import { isAttemptNumber } from '../../core/records.ts';
import { textOf } from './steps.ts';

type Json = Record<string, unknown>;

export interface SessionRequest {
  /** The body to send to the driver. */
  body: Json;
  attempt: AttemptRequest;
  /** The window size the client asked for by launch argument. */
  size?: { width: number; height: number };
  prompts: PromptHandling;
  /** True when the client itself asked for a BiDi socket. */
  wantsSocket: boolean;
}

/**
 * Reads a New Session body: takes our own capability out, and has the rest made into what the place takes.
 * @param launch what the place it goes to makes of launch options
 * @param anyLaunch true when the local settings allow every launch option
 * @throws LaunchRefused for an option that is not on the safe list
 */
export function readSessionRequest(body: Json, launch: Launch, anyLaunch: boolean): SessionRequest {
  const capabilities = asObject(body.capabilities);
  if (!capabilities) throw new LaunchRefused('“capabilities” must be an object');
  const always = { ...readEntry(capabilities.alwaysMatch ?? {}, 'alwaysMatch') };
  const first = readEntries(capabilities.firstMatch);
  const attempt =
    asObject(always['iskel:attempt']) ?? first.map((entry) => asObject(entry['iskel:attempt'])).find(Boolean) ?? {};
  const wantsSocket = [always, ...first].some((entry) => entry.webSocketUrl === true);
  const { alwaysSent, firstSent, prompts = { again: false } } = launch({ always, first, anyLaunch, wantsSocket });
  return {
    prompts,
    // Nothing else of the body: what is not read here is not for the driver to read either.
    body: { capabilities: { alwaysMatch: alwaysSent, firstMatch: firstSent } },
    attempt: cleanAttempt(numbered(attempt)),
    wantsSocket,
    ...sizeOf([always, ...first]),
  };
}

const mostEntries = 50;

function readEntry(entry: unknown, name: string): Json {
  const read = asObject(entry);
  if (!read) throw new LaunchRefused(`“${name}” must be an object`);
  return read;
}

function readEntries(told: unknown): Json[] {
  if (told === undefined) return [{}];
  if (!Array.isArray(told) || told.length === 0 || told.length > mostEntries)
    throw new LaunchRefused(`“firstMatch” must be a list of 1 to ${mostEntries} objects`);
  return told.map((entry) => readEntry(entry, 'firstMatch'));
}

/** Of tags, labels and secrets, so many are read. */
const mostTexts = 500;

const secretsOf = (raw: Json): string[] =>
  (Array.isArray(raw.secrets) ? (raw.secrets as unknown[]) : [])
    .filter((secret): secret is string => typeof secret === 'string' && secret.length >= 3)
    .slice(0, mostTexts);

/** A number that no attempt has is no slip of a label: two attempts would become one. 0 is none: the next is given. */
function numbered(attempt: Json): Json {
  if (typeof attempt.number === 'number' && attempt.number !== 0 && !isAttemptNumber(attempt.number))
    throw new LaunchRefused('“iskel:attempt.number” is a whole number from 1 to 100,000');
  return attempt;
}

/** Keeps what has the right type and leaves the rest: a wrong label must not cost a test its session. */
function cleanAttempt(raw: Json): AttemptRequest {
  const test = asObject(raw.test);
  // Declared secrets go before anything is cut.
  const masker = createMasker(secretsOf(raw));
  const texts = (value: unknown): string[] =>
    Array.isArray(value) ? value.filter((item): item is string => typeof item === 'string').slice(0, mostTexts) : [];
  const text = (value: unknown): string | undefined =>
    typeof value === 'string' && value !== '' ? masker.cut(value, 500) : undefined;
  const labels = asObject(raw.labels);
  return compact({
    run: text(raw.run),
    test:
      test &&
      compact({
        suite: text(test.suite),
        title: text(test.title),
        file: text(test.file),
        params: asObject(test.params),
      }),
    number: isAttemptNumber(raw.number) ? raw.number : undefined,
    tags: texts(raw.tags).map((tag) => masker.cut(tag, 200)),
    labels:
      labels &&
      Object.fromEntries(
        Object.entries(labels)
          .slice(0, mostTexts)
          .map(([key, value]) => [masker.cut(key, 100), masker.cut(textOf(value), 1000)]),
      ),
    commit: text(raw.commit),
    branch: text(raw.branch),
    shard: text(raw.shard),
    worker: text(raw.worker),
    secrets: secretsOf(raw),
    place: text(raw.place),
    detail: raw.detail === 'light' || raw.detail === 'full' ? raw.detail : 'standard',
  });
}

function sizeOf(entries: readonly Json[]): Pick<SessionRequest, 'size'> {
  for (const entry of entries) {
    const args = asObject(entry['goog:chromeOptions'])?.args;
    for (const arg of Array.isArray(args) ? (args as unknown[]) : []) {
      const found = /window-size=(\d{1,5}),(\d{1,5})/.exec(textOf(arg));
      if (found) return { size: { width: Number(found[1]), height: Number(found[2]) } };
    }
  }
  return {};
}

const compact = <T extends object>(value: T): T =>
  Object.fromEntries(Object.entries(value).filter(([, content]) => content !== undefined)) as T;

const asObject = (value: unknown): Json | undefined =>
  value !== null && typeof value === 'object' && !Array.isArray(value) ? (value as Json) : undefined;
