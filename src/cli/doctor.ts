import { spawnSync } from 'node:child_process';
import {
  closeSync,
  existsSync,
  mkdtempSync,
  openSync,
  readdirSync,
  readSync,
  rmSync,
  statSync,
  type Dirent,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { deliver } from '../browser/devtools/deliver.ts';
import { programOnPath, stoodFor } from '../browser/devtools/real-browser.ts';
import { readyIn } from '../browser/devtools/spool.ts';
import { standInPath } from '../browser/devtools/stand-in-path.ts';
import { plural } from '../core/evidence/labels.ts';
import type { Attempt, Run } from '../core/records.ts';
import { carriedOut } from './child.ts';
import { homeAt, type Home } from './home.ts';
import { filesOf, takeIn } from './intake.ts';

/** One thing that was looked at: what was found, and where it is not well what to do. */
export interface Finding {
  what: 'server' | 'browser' | 'command' | 'recording' | 'report' | 'joined';
  ok: boolean;
  found: string;
  fix?: string;
}

export interface DoctorOptions {
  address: string;
  token?: string | undefined;
  /** The team's own call of one test; without it only what is on this machine is looked at. */
  command: readonly string[];
  /** Where its report is written; without it files that are new below the folder are looked at. */
  report: readonly string[];
  folder: string;
  told: (finding: Finding) => void;
}

/** A finding as a terminal shows it. */
export const findingText = ({ what, ok, found, fix }: Finding): string =>
  `${ok ? 'ok  ' : 'no  '}${what.padEnd(10)} ${found}${fix ? `\n    ${' '.repeat(10)} → ${fix}` : ''}`;

const answerMs = 3000;
/** Tests and reports are joined within seconds; after this they will not be, ms. */
const joinMs = 20_000;
/** Deeper than this below the folder no report is looked for. */
const deepest = 5;
const mostFiles = 20_000;
const notLookedInto: ReadonlySet<string> = new Set(['node_modules', '.git', '.venv', 'target', 'dist']);
const isReport = /<testsuites?[\s>]|^TAP version \d|^1\.\.\d+\s*$/m;

/**
 * Looks through a set-up, one thing after the other: the server, the browser, one test of the team's as it is recorded, its
 * report, and whether the two were joined. Stops at the first thing that makes the others pointless.
 * @returns whether all is well
 */
export async function doctor(options: DoctorOptions): Promise<boolean> {
  const findings: Finding[] = [];
  const note = (finding: Finding): boolean => {
    findings.push(finding);
    options.told(finding);
    return finding.ok;
  };
  const { address, token, command } = options;
  if (!note(await server(address, token)) || !note(browser())) return false;
  if (!command.length) return true;
  const spool = mkdtempSync(join(tmpdir(), 'iskel-doctor-'));
  try {
    const home = homeAt(address, token ? { authorization: `Bearer ${token}` } : {}, () => Promise.resolve());
    await oneTest(options, home, spool, note);
  } finally {
    rmSync(spool, { recursive: true, force: true });
  }
  return findings.every(({ ok }) => ok);
}

async function server(address: string, token: string | undefined): Promise<Finding> {
  const answer = await fetch(`${address}/api/runs?limit=1`, {
    headers: token ? { authorization: `Bearer ${token}` } : {},
    signal: AbortSignal.timeout(answerMs),
  }).catch(() => undefined);
  if (!answer)
    return {
      what: 'server',
      ok: false,
      found: `no Iskel answers at ${address}`,
      fix: 'Start it with “npm start”. If it runs elsewhere, say where with --server, and set ISKEL_URL for your tests.',
    };
  if (answer.status === 401)
    return {
      what: 'server',
      ok: false,
      found: `Iskel at ${address} wants a token`,
      fix: 'Give it with --token or ISKEL_TOKEN, here and for your tests. It stands in the settings of the server.',
    };
  return { what: 'server', ok: answer.ok, found: `Iskel answers at ${address}` };
}

function browser(): Finding {
  const all = stoodFor.flatMap((kind) => {
    const path = programOnPath(kind);
    return path
      ? [{ path, version: spawnSync(path, ['--version'], { encoding: 'utf8', timeout: 10_000 }).stdout?.trim() }]
      : [];
  });
  const good = all.filter(({ version }) => version);
  if (good.length)
    return { what: 'browser', ok: true, found: good.map(({ path, version }) => `${version} at ${path}`).join('; ') };
  return {
    what: 'browser',
    ok: false,
    found: all[0] ? `${all[0].path} does not start` : 'there is neither Chromium nor Firefox on the path',
    fix: 'Install Chromium, or say where it is with ISKEL_CHROMIUM; for Firefox with ISKEL_FIREFOX.',
  };
}

async function oneTest(
  { address, token, command, report, folder }: DoctorOptions,
  home: Home,
  spool: string,
  note: (finding: Finding) => boolean,
): Promise<void> {
  const run = `doctor ${new Date().toISOString().slice(0, 19).replace('T', ' ')}`;
  const from = Date.now();
  const ours = { ISKEL_URL: address, ISKEL_SPOOL: spool, ISKEL_RUN: run, ISKEL_DELIVER: 'later' };
  const code = await carriedOut(command, { stdio: 'inherit', env: { ...process.env, ...ours } });
  if (code === 127) {
    note({
      what: 'command',
      ok: false,
      found: `${command[0]} could not be started`,
      fix: 'Give your own call of one test after “--”, as you would type it.',
    });
    return;
  }
  note({ what: 'command', ok: true, found: `${command[0]} ended with ${code}` });
  const ready = readyIn(spool);
  const steps = ready.reduce((sum, one) => sum + [...one.events()].filter(({ lane }) => lane === 'step').length, 0);
  const wasStarted = readdirSync(spool).length > 0;
  const recorded = note(
    ready.length
      ? {
          what: 'recording',
          ok: steps > 0,
          found: `${plural(ready.length, 'test')} recorded, ${plural(steps, 'step')}`,
        }
      : {
          what: 'recording',
          ok: false,
          found: wasStarted
            ? 'the browser was started, and nothing was done in it'
            : 'nothing was recorded: the command started another browser',
          fix: wasStarted
            ? 'Give a call that runs at least one test in the browser.'
            : `Name ${standInPath} where your runner is told which browser to start (its “executable path”).`,
        },
  );
  const missing = report.filter((path) => !existsSync(path));
  const named = report.filter((path) => !missing.includes(path));
  // What was not named, or is not there, is looked for.
  const written = named.length ? [] : newReports(folder, from);
  const reports = filesOf(report.length ? named : written);
  const hasReport = note(
    reports.length
      ? { what: 'report', ok: true, found: reports.map(({ name }) => name).join(', ') }
      : {
          what: 'report',
          ok: false,
          found: missing.length
            ? `the command did not write ${missing.join(', ')}`
            : `the command wrote no report below ${folder}`,
          fix:
            missing.length && written.length
              ? `It wrote ${written.join(', ')}: name that with --report.`
              : 'Let your runner write JUnit XML or TAP, and say where with --report. Without one nobody knows which test it was, nor whether it passed.',
        },
  );
  if (recorded) await deliver(spool, { to: address, token, tokenFor: address });
  if (!recorded || !hasReport) return;
  const { runId, problems } = await takeIn(home, reports, { label: {}, secret: [] });
  if (!runId) {
    note({
      what: 'report',
      ok: false,
      found: `the report could not be read: ${problems[0]?.message ?? 'it tells of no test'}`,
      fix: 'Look at it on Arrivals; JUnit XML and TAP are read.',
    });
    return;
  }
  const attempts = await joined(home, runId, ready.length);
  const whole = attempts.filter(isWhole);
  note({
    what: 'joined',
    ok: whole.length >= ready.length,
    found: `${whole.length} of ${plural(ready.length, 'recorded test')} joined with the report${whole[0] ? `: ${address}/attempts/${whole[0].id}` : ''}`,
    ...(whole.length >= ready.length
      ? {}
      : {
          fix: `The report tells of ${plural(attempts.length, 'test')} in another time, or in another number. Let it write when each test ran (the attribute “timestamp”), and one browser context for each test.`,
        }),
  });
}

const isWhole = ({ environment, outcome }: Attempt): boolean =>
  environment.browser === 'chromium' && outcome !== 'unreported';

async function joined(home: Home, runId: Run['id'], wanted: number): Promise<Attempt[]> {
  for (const until = Date.now() + joinMs; ;) {
    const { attempts } = await home.get<{ attempts: Attempt[] }>(`/runs/${runId}/attempts`);
    if (attempts.filter(isWhole).length >= wanted || Date.now() > until) return attempts;
    await new Promise((done) => setTimeout(done, 300));
  }
}

/** Reports that were written since, below a folder. */
function newReports(folder: string, since: number): string[] {
  const out: string[] = [];
  let seen = 0;
  const walk = (path: string, depth: number): void => {
    for (const entry of entriesOf(path)) {
      if (++seen > mostFiles) return;
      const full = join(path, entry.name);
      if (entry.isDirectory()) {
        if (depth < deepest && !notLookedInto.has(entry.name)) walk(full, depth + 1);
      } else if (entry.isFile() && /\.(?:xml|tap|txt|log)$/i.test(entry.name) && isNewReport(full, since))
        out.push(full);
    }
  };
  walk(folder, 0);
  return out;
}

function entriesOf(path: string): Dirent[] {
  try {
    return readdirSync(path, { withFileTypes: true });
  } catch {
    // A folder that is closed to us has no report for us.
    return [];
  }
}

function isNewReport(path: string, since: number): boolean {
  try {
    if (statSync(path).mtimeMs < since - 1000) return false;
    const file = openSync(path, 'r');
    try {
      const head = Buffer.alloc(4096);
      return isReport.test(head.toString('utf8', 0, readSync(file, head)));
    } finally {
      closeSync(file);
    }
  } catch {
    return false;
  }
}
