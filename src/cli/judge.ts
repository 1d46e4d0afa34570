import type { Attempt, Run } from '../core/records.ts';
import { againstWords } from '../core/rules/against.ts';
import { CliError, type Home } from './home.ts';

/** How often a run is looked at while attempts of it are still recorded or analysed, ms. */
const askEveryMs = 300;

/** What the standing rules say of a run. */
export interface Judged {
  run: string;
  name: string;
  /** Tests by environment that were looked at: how the last attempt of each ended counts. */
  tests: number;
  against: { test: string; environment: string; attempt: string; words: string }[];
  told: { test: string; environment: string; attempt: string; words: string }[];
}

/** The run of this id or name; “latest” is the newest. */
async function runNamed(home: Home, name: string): Promise<Run> {
  const { runs } = await home.get<{ runs: Run[] }>('/runs?limit=500');
  const run = name === 'latest' ? runs[0] : runs.find((one) => one.id === name || one.name === name);
  if (!run) throw new CliError(`there is no run “${name}” here; “iskel runs” lists them`, 2);
  return run;
}

/**
 * Holds a run against the standing rules, once all of its attempts are analysed.
 * @param waitMs how long that may take
 */
export async function judge(home: Home, name: string, waitMs: number): Promise<Judged> {
  const run = await runNamed(home, name);
  for (const end = Date.now() + waitMs; ;) {
    const { attempts } = await home.get<{ attempts: Attempt[] }>(`/runs/${run.id}/attempts`);
    const open = attempts.filter(({ state }) => state !== 'ready').length;
    if (open === 0) return judged(run, attempts);
    if (Date.now() > end)
      throw new CliError(
        `${open} attempts of “${run.name}” were not analysed in ${waitMs / 1000} s; give it more with --wait`,
      );
    await new Promise((done) => setTimeout(done, askEveryMs));
  }
}

function judged(run: Run, attempts: readonly Attempt[]): Judged {
  const last = new Map<string, Attempt>();
  // They come in the order of their tests, environments and numbers.
  for (const one of attempts) last.set(`${one.test.id}\n${one.environment.key}`, one);
  const found = [...last.values()].filter(({ outcome, against }) => outcome === 'passed' && against);
  const told = (fails: boolean): Judged['against'] =>
    found
      .filter(({ against }) => against!.fails === fails)
      .map(({ id, test, environment, against }) => ({
        test: [test.suite, test.title].filter(Boolean).join(' / '),
        environment: environment.key,
        attempt: id,
        words: againstWords(against!),
      }));
  return { run: run.id, name: run.name, tests: last.size, against: told(true), told: told(false) };
}

/** The same for a terminal. */
export function judgedText({ name, tests, against, told }: Judged): string {
  const lines = [
    against.length
      ? `${against.length} of ${tests} tests of “${name}” passed against the rules`
      : `No test of ${tests} of “${name}” passed against the rules`,
  ];
  for (const { test, environment, words, attempt } of against)
    lines.push(`  ${test}, ${environment}: ${words} (${attempt})`);
  if (told.length)
    lines.push(`${told.length} more ${told.length === 1 ? 'has' : 'have'} something against rules that only tell`);
  return lines.join('\n');
}
