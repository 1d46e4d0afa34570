import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { startFerrySite, type FerrySite } from '../demo/site/site.ts';
import type { Finding } from '../src/cli/doctor.ts';
import { standIn } from './devtools-client.ts';
import { program, startServerProcess, type ServerProcess } from './helpers.ts';

/** `iskel doctor` on set-ups that somebody new may have: it says what is wrong, and how to mend it. */

let server: ServerProcess;
let site: FerrySite;
let folder: string;
beforeAll(async () => {
  [server, site] = await Promise.all([startServerProcess(), startFerrySite()]);
  folder = mkdtempSync(join(tmpdir(), 'iskel-doctor-test-'));
});
afterAll(async () => {
  await server.stop();
  await site.close();
  rmSync(folder, { recursive: true, force: true });
});

const tsx = join(import.meta.dirname, '..', 'node_modules', '.bin', 'tsx');
/** Our own made-up runner, in a folder of its own, with its report or without. */
const runner = (browser: string, withReport: boolean): { command: string[]; cwd: string } => {
  const cwd = mkdtempSync(join(folder, 'project-'));
  const report = withReport ? [join(cwd, 'report.xml')] : [];
  return { cwd, command: [tsx, join(import.meta.dirname, 'doctor-runner.ts'), browser, site.address, ...report] };
};

interface Answer {
  code: number | null;
  ok: boolean;
  findings: Finding[];
}

function asked(
  address: string,
  { command, cwd }: { command: string[]; cwd: string },
  ...named: string[]
): Promise<Answer> {
  const cli = [...program('src/cli/main.ts'), '--json', '--server', address, 'doctor', ...named, '--'];
  const [last] = cli.filter((one) => /\.m?[jt]s$/.test(one));
  const args = cli.map((one) => (one === last ? join(import.meta.dirname, '..', one) : one));
  const child = spawn(process.execPath, [...args, ...command], { cwd, stdio: ['ignore', 'pipe', 'inherit'] });
  let out = '';
  child.stdout.on('data', (chunk: Buffer) => (out += chunk.toString()));
  return new Promise((done, fail) =>
    child.once('exit', (code) => {
      try {
        done({ code, ...(JSON.parse(out.slice(out.indexOf('{'))) as Omit<Answer, 'code'>) });
      } catch {
        fail(new Error(`ended with ${code}: ${out}`));
      }
    }),
  );
}
const told = ({ findings }: Answer): string[] => findings.map(({ what, ok }) => `${what} ${ok}`);

const lastOf = ({ findings }: Answer): Finding => findings.at(-1)!;

it('a set-up that is right is said to be, with the test it recorded', async () => {
  const answer = await asked(server.address, runner(standIn, true));
  expect(told(answer)).toEqual([
    'server true',
    'browser true',
    'command true',
    'recording true',
    'report true',
    'joined true',
  ]);
  expect([answer.ok, answer.code]).toEqual([true, 0]);
  expect(lastOf(answer).found).toContain(`1 of 1 recorded test joined with the report: ${server.address}/attempts/`);
});

it('without a report it says that nobody will know which test it was', async () => {
  const answer = await asked(server.address, runner(standIn, false));
  expect(told(answer)).toEqual(['server true', 'browser true', 'command true', 'recording true', 'report false']);
  expect(answer.code).toBe(1);
  expect(lastOf(answer)).toMatchObject({ fix: expect.stringContaining('JUnit XML or TAP') as string });
});

it('where the report is not where it was said to be it names the one that was written', async () => {
  const set = runner(standIn, true);
  const answer = await asked(server.address, set, '--report', join(set.cwd, 'results.xml'));
  expect(told(answer)).toEqual(['server true', 'browser true', 'command true', 'recording true', 'report false']);
  expect(lastOf(answer).found).toContain('results.xml');
  expect(lastOf(answer).fix).toContain(join(set.cwd, 'report.xml'));
});

it('where another browser was started it says which path to name', async () => {
  const answer = await asked(server.address, runner('/usr/bin/chromium', true));
  expect(told(answer)).toEqual(['server true', 'browser true', 'command true', 'recording false', 'report true']);
  expect(answer.findings[3]!.fix).toContain(standIn);
});

it('where no server answers nothing is run, and it says how to start one', async () => {
  const answer = await asked('http://127.0.0.1:9', runner(standIn, true));
  expect(told(answer)).toEqual(['server false']);
  expect(lastOf(answer).fix).toContain('npm start');
});
