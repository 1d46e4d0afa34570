// A small git history of the demo's shop, of which one commit makes a test flaky, bisected by a drill of the running Iskel.
// Run: npm run bench:bisect -- [--commits 16] [--moved 9] [--before 0.02] [--after 0.3]; port 4871 has to be free.
import { execFileSync, spawn } from 'node:child_process';
import { cpSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { parseArgs } from 'node:util';
import { demoPort, faultyTests } from '../demo/faults.ts';
import type { Bisected } from '../src/cli/bisect.ts';
import { json, program, startServerProcess } from '../tests/helpers.ts';

const { values } = parseArgs({
  options: {
    commits: { type: 'string', default: '16' },
    moved: { type: 'string', default: '9' },
    before: { type: 'string', default: '0.02' },
    after: { type: 'string', default: '0.3' },
  },
});
const root = fileURLToPath(new URL('../', import.meta.url));
const folder = mkdtempSync(join(tmpdir(), 'iskel-bisected-'));
const shop = join(folder, 'shop');
const [{ fault, path, title }] = faultyTests as [(typeof faultyTests)[number]];

const git = (...args: string[]): string =>
  execFileSync('git', ['-C', shop, '-c', 'user.name=Ada', '-c', 'user.email=ada@lodos.example', ...args])
    .toString()
    .trim();

/** The shop, and a change of something at every commit; since one of them a panel is drawn anew more often. */
function makeHistory(): string[] {
  const ids: string[] = [];
  mkdirSync(join(shop, 'src/core/stats'), { recursive: true });
  execFileSync('git', ['init', '-q', shop]);
  cpSync(join(root, 'demo/site'), join(shop, 'demo/site'), { recursive: true });
  cpSync(join(root, 'src/core/stats/seeded.ts'), join(shop, 'src/core/stats/seeded.ts'));
  writeFileSync(join(shop, 'package.json'), '{ "type": "module" }');
  writeFileSync(join(shop, '.gitignore'), 'node_modules\n');
  for (let commit = 0; commit < Number(values.commits); commit++) {
    const rate = commit >= Number(values.moved) ? values.after : values.before;
    writeFileSync(
      join(shop, 'serve.ts'),
      `import { startFerrySite } from './demo/site/site.ts';
// Step ${commit} of this history.
const site = await startFerrySite(${demoPort});
site.visits.stand('${path}', ['${fault}'], ${rate});
`,
    );
    git('add', '.');
    git('commit', '-q', '-m', `step ${commit}`);
    ids.push(git('rev-parse', 'HEAD'));
  }
  return ids;
}

const ids = makeHistory();
const server = await startServerProcess({ data: join(folder, 'data') });
try {
  const packs = join(root, 'demo/data');
  for (const name of readdirSync(packs).filter((one) => one.endsWith('.iskel.zip'))) {
    const form = new FormData();
    form.append('files', new Blob([new Uint8Array(readFileSync(join(packs, name)))]), name);
    await fetch(`${server.address}/api/intake`, { method: 'POST', body: form });
  }
  const attempt = await failedAttempt();
  const { body: drill } = await json<{ id: string }>('POST', `${server.address}/api/drills`, { attemptId: attempt });
  const tsx = join(root, 'node_modules/.bin/tsx');
  writeFileSync(
    join(folder, 'iskel.settings.json'),
    JSON.stringify({
      bisects: [
        {
          name: 'holds',
          folder: 'shop',
          prepare: { program: 'ln', args: ['-s', join(root, 'node_modules'), 'node_modules'] },
          start: { program: tsx, args: ['serve.ts'] },
          ready: `http://127.0.0.1:${demoPort}/`,
          drill: drill.id,
        },
      ],
    }),
  );
  const began = Date.now();
  const child = spawn(
    process.execPath,
    [...program('src/cli/main.ts'), '--server', server.address, '--json', 'bisect', 'holds', '--good', ids[0]!],
    {
      cwd: root,
      env: { ...process.env, ISKEL_SETTINGS: join(folder, 'iskel.settings.json') },
      stdio: ['ignore', 'pipe', 'inherit'],
    },
  );
  let out = '';
  child.stdout.on('data', (chunk: Buffer) => (out += chunk.toString()));
  await new Promise((done) => child.once('close', done));
  const told = JSON.parse(out) as Bisected;
  for (const { subject, trials } of told.commits)
    console.log(`  ${subject.padEnd(10)} ${trials.failed} of ${trials.of}`);
  console.log(told.words);
  console.log(
    `told beforehand: about ${told.told?.middle}, under ${told.told?.most} more trials; ${told.trials} in all, ${Math.round((Date.now() - began) / 1000)} s; ` +
      `${told.found?.id === ids[Number(values.moved)] ? 'the right commit' : 'not the right commit'}`,
  );
} finally {
  await server.stop();
  rmSync(folder, { recursive: true, force: true });
}
process.exit(0);

/** A failure of the demo's runs by the fault that the history is about. */
async function failedAttempt(): Promise<string> {
  for (;;) {
    const { body } = await json<{ runs: { id: string }[] }>('GET', `${server.address}/api/runs?limit=50`);
    for (const { id } of body.runs) {
      const told = await json<{ attempts: { id: string; outcome: string; state: string; test: { title: string } }[] }>(
        'GET',
        `${server.address}/api/runs/${id}/attempts`,
      );
      const one = told.body.attempts.find(
        ({ outcome, state, test }) => outcome === 'failed' && state === 'ready' && test.title === title,
      );
      if (one) return one.id;
    }
    await new Promise((done) => setTimeout(done, 300));
  }
}
