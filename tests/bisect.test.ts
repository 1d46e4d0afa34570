import { execFileSync, spawn } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { freePort } from '../src/browser/free-port.ts';
import type { Bisected } from '../src/cli/bisect.ts';
import { program, startServerProcess, type ServerProcess } from './helpers.ts';

/** A small history of a shop, of which one commit makes holding a seat fail now and then. */
const moved = 5;
const folder = mkdtempSync(join(tmpdir(), 'iskel-history-'));
const shop = join(folder, 'shop');
let server: ServerProcess;
let port = 0;
const ids: string[] = [];

const git = (...args: string[]): string =>
  execFileSync('git', ['-C', shop, '-c', 'user.name=Ada', '-c', 'user.email=ada@lodos.example', ...args])
    .toString()
    .trim();

/** The shop answers, and forgets a seat as often as its commit lets it. */
const serve = `
const { createServer } = require('node:http');
const { rate } = require('./shop.json');
let asked = 0;
createServer((request, answer) => {
  const forgets = request.url === '/hold' && (asked++ * 7) % 10 < rate * 10;
  answer.end(forgets ? 'no seat' : 'held');
}).listen(Number(process.env.SHOP_PORT));
`;
/** A test in a shell: started hundreds of times, it costs what it asks and no more. */
const test = `
exec 3<>/dev/tcp/127.0.0.1/$SHOP_PORT
printf 'GET /hold HTTP/1.0\\r\\n\\r\\n' >&3
grep -q held <&3
`;

beforeAll(async () => {
  port = await freePort();
  mkdirSync(shop);
  execFileSync('git', ['init', '-q', shop]);
  for (let commit = 0; commit < 9; commit++) {
    writeFileSync(join(shop, 'serve.cjs'), commit === 3 ? 'throw new Error("does not even start")' : serve);
    writeFileSync(join(shop, 'shop.json'), JSON.stringify({ rate: commit >= moved ? 0.9 : 0, commit }));
    git('add', '.');
    git('commit', '-q', '-m', `step ${commit}`);
    ids.push(git('rev-parse', 'HEAD'));
  }
  writeFileSync(join(folder, 'test.sh'), test);
  const environment = { SHOP_PORT: String(port) };
  writeFileSync(
    join(folder, 'iskel.settings.json'),
    JSON.stringify({
      bisects: [
        {
          name: 'holds',
          folder: 'shop',
          start: { program: process.execPath, args: ['serve.cjs'], environment },
          ready: `http://127.0.0.1:${port}/`,
          test: { program: 'bash', args: [join(folder, 'test.sh')], environment },
        },
      ],
    }),
  );
  server = await startServerProcess();
});
afterAll(async () => {
  await server?.stop();
  rmSync(folder, { recursive: true, force: true });
});

async function iskel(...args: string[]): Promise<{ code: number | null; out: string; err: string }> {
  const child = spawn(process.execPath, [...program('src/cli/main.ts'), '--server', server.address, ...args], {
    env: { ...process.env, ISKEL_SETTINGS: join(folder, 'iskel.settings.json') },
  });
  let [out, err] = ['', ''];
  child.stdout.on('data', (chunk: Buffer) => (out += chunk.toString()));
  child.stderr.on('data', (chunk: Buffer) => (err += chunk.toString()));
  return { code: await new Promise<number | null>((done) => child.once('close', done)), out, err };
}

it('finds the commit that moved the rate, passes over one that does not start, and leaves nothing behind', async () => {
  const ended = await iskel('--json', 'bisect', 'holds', '--good', ids[0]!, '--ends', '10');
  expect(ended.err).toBe('');
  expect(ended.code).toBe(0);
  const told = JSON.parse(ended.out) as Bisected;
  expect(told.found).toMatchObject({ id: ids[moved], subject: `step ${moved}`, sure: true, commit: moved });
  expect(told.words).toMatch(/^\w{10} “step 5” moved it, with (?:9\d|100) %: failed 0 of \d+ before it/);
  expect(told.commits).toHaveLength(9);
  expect(told.told!.middle).toBeGreaterThan(0);
  const broken = told.commits.filter(({ problem }) => problem);
  for (const one of broken) expect([one.id, one.problem]).toEqual([ids[3], expect.stringContaining('ended with 1')]);
  expect(git('worktree', 'list').split('\n')).toHaveLength(1);
  await expect(fetch(`http://127.0.0.1:${port}/`)).rejects.toThrow();
}, 120_000);

it('says when nothing moved, and what is wrong with what it was told', async () => {
  const same = await iskel('bisect', 'holds', '--good', ids[0]!, '--bad', ids[2]!, '--ends', '10', '--trials', '40');
  expect(same.code).toBe(5);
  expect(same.out).toContain('The ends do not differ surely: 0 of');
  expect(await iskel('bisect', 'fares', '--good', ids[0]!)).toMatchObject({
    code: 2,
    err: expect.stringContaining('names no bisection “fares”; it names holds') as string,
  });
  expect((await iskel('bisect', 'holds', '--good', 'nowhere')).err).toContain('git could not read');
  expect((await iskel('bisect', 'holds', '--good', '--output=x')).code).toBe(2);
}, 120_000);
