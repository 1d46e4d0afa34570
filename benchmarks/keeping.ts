// A large data folder that is brought to a budget while recording goes on: what is lost that must not be, whether the sizes
// on disk are what is told, how long lists take meanwhile, and what a kill in the middle costs.
// Run: npm run bench:keeping -- [--gb 20] [--budget 5] [--into FOLDER]
import { execFileSync } from 'node:child_process';
import { createHash, randomFillSync } from 'node:crypto';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { startFerrySite } from '../demo/site/site.ts';
import { playTest } from '../demo/suite/run.ts';
import { ferryTests } from '../demo/suite/tests.ts';
import { analysisVersion } from '../src/core/analyse.ts';
import type { EvidenceEvent } from '../src/core/evidence/event.ts';
import { noRules } from '../src/core/rules/standing-rules.ts';
import { seeded } from '../src/core/stats/seeded.ts';
import { Store } from '../src/server/store/store.ts';
import type { KeepingView } from '../src/web/types.ts';
import { json, sleep, startServerProcess } from '../tests/helpers.ts';

const { values } = parseArgs({
  options: {
    gb: { type: 'string', default: '20' },
    budget: { type: 'string', default: '5' },
    into: { type: 'string' },
  },
});
const [gb, budget] = [Number(values.gb), Number(values.budget)];
const home = values.into ?? mkdtempSync(join(tmpdir(), 'iskel-keeping-'));
const dayMs = 86_400_000;
const random = seeded(7);

/** What must be there in the end, whole: attempts that are pinned, or failed. */
const holy: { id: string; events: number; files: string[] }[] = [];
fill();
console.log(`filled: ${onDisk()} of ${gb} GB, ${holy.length} pinned or failed`);

let server = await startServerProcess({ data: home });
const call = async <T>(method: string, path: string, body?: unknown): Promise<T> =>
  (await json<T>(method, `${server.address}/api${path}`, body)).body;
const site = await startFerrySite();
let recording = true;
let phase = 'whole';
let recorded = 0;
const broken: string[] = [];
const goesOn = (async () => {
  for (let i = 1; recording; i++) {
    try {
      const { failure } = await playTest(
        { remote: `${server.address}/wd`, run: 'meanwhile', address: site.address },
        ferryTests[0]!,
        i,
      );
      if (failure) broken.push(failure.message);
      recorded++;
    } catch (error) {
      // While the server is killed and started again nothing can be recorded.
      if (recording && phase !== 'killed') broken.push((error as Error).message);
      await sleep(200);
    }
  }
})();

/** What is asked for all the time. */
async function askLists(took: number[]): Promise<void> {
  for (const path of ['/runs', '/families']) {
    const from = performance.now();
    await call('GET', path);
    took.push(performance.now() - from);
  }
}
function told(what: string, took: number[]): void {
  const sorted = [...took].sort((a, b) => a - b);
  const at = (share: number): string => `${sorted[Math.floor((sorted.length - 1) * share)]!.toFixed(1)} ms`;
  console.log(`lists ${what}: median ${at(0.5)}, 95 of 100 under ${at(0.95)}, longest ${at(1)}, ${took.length} asked`);
}
const [alone, lists]: [number[], number[]] = [[], []];
for (let i = 0; i < 80; i++) {
  await askLists(alone);
  await sleep(100);
}
told('while only recording', alone);
const begun = performance.now();
await call('PUT', '/rules', { ...noRules, keeping: { ...noRules.keeping, budgetGb: budget } });
for (;;) {
  const { running, last, problem } = await call<KeepingView>('GET', '/keeping');
  if (problem) throw new Error(problem);
  await askLists(lists);
  if (phase === 'whole' && running?.of && running.done > running.of / 3) {
    phase = 'killed';
    server.child.kill('SIGKILL');
    await sleep(500);
    server = await startServerProcess({ data: home });
    console.log(`killed after ${running.done} of ${running.of}; started again`);
    await call('POST', '/keeping');
    phase = 'again';
  } else if (phase === 'again' && last && !running) {
    console.log(`done in ${((performance.now() - begun) / 1000).toFixed(0)} s: ${JSON.stringify(last)}`);
    break;
  }
  await sleep(100);
}
recording = false;
await goesOn;
const view = await call<KeepingView>('GET', '/keeping');
const files = Number(
  execFileSync('du', ['-sb', '--apparent-size', join(home, 'blobs')])
    .toString()
    .split('\t')[0],
);
console.log(
  `told: files ${(view.folder.files / 1e9).toFixed(3)} GB, database ${(view.folder.database / 1e9).toFixed(3)} GB; on disk: files ${(files / 1e9).toFixed(3)} GB (with folders), all ${onDisk()} GB`,
);
told('meanwhile', lists);
console.log(`recorded meanwhile: ${recorded}, of which ${broken.length} failed ${broken.slice(0, 2).join(' | ')}`);
await server.stop();
await site.close();
const store = new Store(home);
let lost = 0;
for (const { id, events, files: named } of holy) {
  const whole = store.events.count(id) === events && named.every((name) => store.blobs.find(name) !== undefined);
  const bytes = whole
    ? await Promise.all(
        named.map((name) =>
          store.blobs.read(name).then((one) => createHash('sha256').update(one).digest('hex') === name),
        ),
      )
    : [false];
  if (!bytes.every(Boolean)) lost++;
}
console.log(`pinned or failed, and not whole: ${lost} of ${holy.length}`);
store.close();
if (!values.into) rmSync(home, { recursive: true, force: true });
process.exit(0);

function onDisk(): string {
  return (Number(execFileSync('du', ['-sb', '--apparent-size', home]).toString().split('\t')[0]) / 1e9).toFixed(2);
}

/** Attempts of a year: most with pictures of some 60 kB, some with videos of 40 MB; one in ten failed, one in fifty is pinned. */
function fill(): void {
  const filled = new Store(home);
  const { db } = filled;
  const named = db.prepare('INSERT OR IGNORE INTO blobs (name, mime, size, taken_at) VALUES (?, ?, ?, 1)');
  const noise = Buffer.alloc(40_000_000);
  let total = 0;
  for (let i = 0; total < gb * 1e9; i++) {
    const startedAt = Date.now() - Math.floor(random() * 365) * dayMs;
    const large = random() < 0.02;
    const [failed, pinned] = [random() < 0.1, random() < 0.02];
    const pictures = large ? 1 : 5 + Math.floor(random() * 40);
    const files = Array.from({ length: pictures }, () => {
      const bytes = noise.subarray(0, large ? 40_000_000 : 20_000 + Math.floor(random() * 80_000));
      randomFillSync(bytes, 0, Math.min(bytes.length, 64));
      const name = createHash('sha256').update(bytes).digest('hex');
      mkdirSync(join(home, 'blobs', name.slice(0, 2)), { recursive: true });
      writeFileSync(join(home, 'blobs', name.slice(0, 2), name), bytes);
      total += bytes.length;
      return { name, size: bytes.length };
    });
    filled.together(() => {
      const id = filled.attempts.begin({
        runId: filled.runs.named(`nightly-${Math.floor(i / 50)}`, startedAt),
        test: { suite: 'yard', title: `test ${i % 200}` },
        environment: { browser: 'chromium', version: '156' },
        startedAt,
      });
      for (const { name, size } of files) named.run(name, large ? 'video/webm' : 'image/jpeg', size);
      const events: EvidenceEvent[] = [
        ...files.map(({ name }, n): EvidenceEvent => ({
          id: `s${n}`,
          lane: 'screen',
          kind: large ? 'video' : 'frame',
          at: n * 100,
          clock: 'browser',
          data: { blob: name, mime: large ? 'video/webm' : 'image/jpeg', width: 1280, height: 800, scale: 1 },
        })),
        ...Array.from({ length: 200 }, (_, n): EvidenceEvent => ({
          id: `c${n}`,
          lane: 'console',
          kind: 'line',
          at: n * 20,
          clock: 'browser',
          data: { level: 'info', text: `sailing ${n} of ${i}: seats left ${Math.floor(random() * 200)}`.repeat(4) },
        })),
      ];
      filled.events.write(id, events);
      filled.attempts.outcome(id, failed ? 'failed' : 'passed', failed ? 'no seat' : '', '');
      db.prepare("UPDATE attempts SET state = 'ready', analysis_version = ? WHERE id = ?").run(analysisVersion, id);
      filled.kept.put(id);
      if (pinned) filled.kept.pin(id, true);
      if (failed || pinned) holy.push({ id, events: events.length, files: files.map(({ name }) => name) });
    });
  }
  filled.close();
}
