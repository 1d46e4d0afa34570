import { literal } from '../patterns/literal.ts';
import type { TestName } from '../evidence/attempt.ts';

/** What a team's own test command is told, so that it runs these tests again and is recorded. */
export interface AgainTold {
  tests: readonly Pick<TestName, 'suite' | 'title' | 'file'>[];
  /** Name of the run that everything belongs to. */
  run: string;
  /** From 1. */
  repetition: number;
  /** Address of Iskel, and its WebDriver recording endpoint. */
  address: string;
  remote: string;
}

/** Longest that one variable or argument may be; Linux takes 128 KiB of each. */
const mostText = 100_000;

/** A text in which nothing has a meaning of its own to a regular expression, and that no program takes for an option. */
const ofTitle = (text: string): string => literal(text).replaceAll('/', '\\/').replace(/^-/, '[-]');

const unbroken = (text: string): string => text.replace(/[\0\r\n]+/g, ' ');
const once = (texts: readonly string[]): string[] => [...new Set(texts)];

/**
 * The environment and the arguments of a test command. Arguments may hold `{filter}`, `{run}`, `{remote}` and
 * `{repetition}` anywhere; one that is `{files}` alone becomes an argument for each file.
 * @throws RangeError where so many tests were chosen that their names fit in no variable
 */
export function againCall(
  args: readonly string[],
  { tests, run, repetition, address, remote }: AgainTold,
): { args: string[]; environment: Record<string, string> } {
  const titles = once(tests.map(({ title }) => unbroken(title)));
  // One that begins with a dash would be read as an option.
  const files = once(tests.flatMap(({ file }) => (file ? unbroken(file).replace(/^-/, './-') : [])));
  const values: Record<string, string> = {
    filter: titles.map(ofTitle).join('|'),
    files: files.join(' '),
    run,
    remote,
    repetition: String(repetition),
  };
  const environment = {
    ISKEL_URL: address,
    ISKEL_REMOTE: remote,
    ISKEL_RUN: run,
    ISKEL_REPETITION: String(repetition),
    ISKEL_FILTER: values.filter!,
    ISKEL_TITLES: titles.join('\n'),
    ISKEL_FILES: files.join('\n'),
    ISKEL_TESTS: JSON.stringify(
      tests.map(({ suite, title, file }) => ({ suite: unbroken(suite), title: unbroken(title), file: file ?? null })),
    ),
  };
  if (Object.values(environment).some((text) => text.length > mostText))
    throw new RangeError(`${tests.length} tests are too many to be named to a command; choose fewer`);
  return {
    environment,
    args: args.flatMap((arg) =>
      arg === '{files}'
        ? files
        : [arg.replace(/\{(filter|files|run|remote|repetition)\}/g, (_, name: string) => values[name]!)],
    ),
  };
}
