import { literal } from '../patterns/literal.ts';
import type { TestName } from '../evidence/attempt.ts';

/** What a team's own test command is told, so that it runs these tests again and is recorded. */
export interface AgainTold {
  tests: readonly Pick<TestName, 'suite' | 'title' | 'file'>[];
  /** Name of the run that everything belongs to. */
  run: string;
  /** From 1. */
  repetition: number;
  /** The folder of the command: it is told of no file that lies elsewhere. */
  folder: string;
  /** Address of Iskel, and its WebDriver recording endpoint. */
  address: string;
  remote: string;
}

/** Longest that one variable or argument may be; Linux takes 128 KiB of each. */
const mostText = 100_000;

/** A text in which nothing has a meaning of its own to a regular expression, and that no program takes for an option. */
const ofTitle = (text: string): string => literal(text).replaceAll('/', '\\/').replace(/^-/, '[-]');

const unbroken = (text: string): string => text.replace(/[\0\r\n]+/g, ' ');
/** The name of a run as an argument: no program takes it for an option. */
export const runName = (name: string): string => unbroken(name).replace(/^[-\s]+/, '') || 'run';

const once = (texts: readonly string[]): string[] => [...new Set(texts)];

/** Whether a path leads nowhere but into a folder. */
const isWithin = (folder: string, path: string): boolean => {
  const parts = path.split(/[\\/]/);
  if (parts.includes('..')) return false;
  return !/^(?:[\\/]|[A-Za-z]:)/.test(path) || path.startsWith(`${folder.replace(/[\\/]$/, '')}/`);
};

/**
 * The environment and the arguments of a test command. Arguments may hold `{filter}`, `{run}`, `{remote}` and
 * `{repetition}` anywhere; one that is `{files}` alone becomes an argument for each file.
 * @throws RangeError where so many tests were chosen that their names fit in no variable, or a file lies elsewhere
 */
export function againCall(
  args: readonly string[],
  { tests, run: named, repetition, folder, address, remote }: AgainTold,
): { args: string[]; environment: Record<string, string> } {
  const titles = once(tests.map(({ title }) => unbroken(title)));
  const run = runName(named);
  const elsewhere = tests.find(({ file }) => file && !isWithin(folder, file));
  if (elsewhere && args.some((arg) => arg.includes('{files}')))
    throw new RangeError(
      `the file of “${elsewhere.title}” does not lie in ${folder}, so it is not named to a command: ${elsewhere.file}`,
    );
  const within = (file: string | null | undefined): file is string => Boolean(file) && isWithin(folder, file!);
  // One that begins with a dash would be read as an option.
  const files = once(tests.flatMap(({ file }) => (within(file) ? unbroken(file).replace(/^-/, './-') : [])));
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
      tests.map(({ suite, title, file }) => ({
        suite: unbroken(suite),
        title: unbroken(title),
        file: within(file) ? file : null,
      })),
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
