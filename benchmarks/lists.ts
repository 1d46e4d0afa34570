// How long lists and search take with 5,000 runs and a million attempts. Builds the folder first (some minutes), then asks over HTTP.
// Run: npm run bench:lists [runs] [attempts a run]
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { analysisVersion } from '../src/core/analyse.ts';
import { shortHash } from '../src/core/evidence/hash.ts';
import { Store } from '../src/server/store/store.ts';
import { startServerProcess } from '../tests/helpers.ts';

const runs = Number(process.argv[2]) || 5000;
const perRun = Number(process.argv[3]) || 200;
const asks = 120;

const data = process.env.BENCH_DATA ?? mkdtempSync(join(tmpdir(), 'iskel-lists-'));
const begun = performance.now();
const ids: Record<'runs' | 'attempts' | 'families' | 'tests', string[]> = {
  runs: [],
  attempts: [],
  families: [],
  tests: [],
};
{
  const store = new Store(data);
  store.db.pragma('cache_size = -256000');
  const words = [
    'seat',
    'fare',
    'pass',
    'bicycle',
    'port',
    'card',
    'hold',
    'trip',
    'sailing',
    'name',
    'deck',
    'berth',
    'cabin',
    'ticket',
    'harbour',
    'island',
  ];
  const tests = Array.from({ length: 2000 }, (_, i) => ({
    suite: `booking/${words[i % 16]}`,
    title: `${words[(i * 7) % 16]} ${words[(i * 3) % 16]} case ${i}`,
  }));
  ids.tests.push(...tests.map(({ suite, title }) => `t-${shortHash(`${suite}\n${title}`)}`));
  const environments = ['chromium', 'firefox', 'webkit'].map((browser) => ({
    browser,
    version: '156',
    width: 1280,
    height: 800,
  }));
  let seed = 5;
  const draw = (most: number): number => {
    seed = (Math.imul(seed, 1_664_525) + 1_013_904_223) >>> 0;
    return seed % most;
  };
  for (let r = 0; r < runs; r++) {
    const startedAt = Date.UTC(2025, 0, 1) + r * 3_600_000;
    const run = store.runs.named(`nightly-${r}`, startedAt, {
      commit: r.toString(16).padStart(10, '0'),
      branch: 'main',
    });
    ids.runs.push(run);
    store.together(() => {
      for (let i = 0; i < perRun; i++) {
        const test = tests[(r * 13 + i) % tests.length]!;
        const failed = draw(33) === 0;
        const id = `a-${r.toString(36)}-${i.toString(36)}`;
        const kind = draw(200);
        const message = failed
          ? `expected “${words[kind % 16]} ${draw(900)}” to be “${words[(kind * 5) % 16]}” at desk ${kind}`
          : '';
        store.attempts.add({
          id,
          runId: run,
          test,
          number: 1,
          outcome: failed ? 'failed' : 'passed',
          environment: environments[i % 3]!,
          startedAt: startedAt + i * 900,
          durationMs: 800 + draw(4000),
          message,
          stack: '',
          labels: { worker: String(i % 4) },
          analysisVersion,
          intakeId: 'bench',
        });
        if (i % 20 === 0) ids.attempts.push(id);
        if (!failed) continue;
        const print = `assertion|desk.ts:${kind}|expected <value> to be <value>`;
        store.attempts.settle(
          id,
          {
            failure: { kind: 'assertion', sentence: message, libraryFrames: 0, message, stack: '' },
            family: { id: '', fingerprint: print },
            clues: [],
            suspects: [],
            undetermined: true,
            derived: [],
            labels: {},
            locators: [],
            complaints: [],
            risks: [],
          },
          analysisVersion,
        );
        store.find.index(id, {
          message,
          console: `desk ${kind} closed at ${draw(10_000)} with ${words[draw(16)]} ${words[draw(16)]}`,
          request: `GET http://ferry.test/${words[kind % 16]}/${draw(5000)}`,
          step: `Press on ${words[kind % 16]}`,
          note: '',
        });
      }
    });
  }
  ids.families = store.families.newest(100).map(({ id }) => id);
  // A month of screens has been looked at; the older runs' bands were made when they came in.
  for (const run of ids.runs) store.runs.summary(run);
  store.db.exec('ANALYZE');
  store.close();
}
console.log(`${runs} runs, ${runs * perRun} attempts built in ${((performance.now() - begun) / 1000).toFixed(0)} s`);

const server = await startServerProcess({ data });
const pick = <T>(list: readonly T[], i: number): T => list[(i * 7919) % list.length]!;
const before = (i: number): number => Date.UTC(2025, 0, 1) + ((i * 37) % runs) * 3_600_000;
const questions: [string, (i: number) => string][] = [
  ['newest runs', () => '/runs'],
  ['runs, any page', (i) => `/runs?before=${before(i)}`],
  ['a run', (i) => `/runs/${pick(ids.runs, i)}`],
  ['run sheet', (i) => `/runs/${pick(ids.runs, i)}/sheet`],
  ['attempts of a run', (i) => `/runs/${pick(ids.runs, i)}/attempts`],
  ['an attempt', (i) => `/attempts/${pick(ids.attempts, i)}`],
  ['families', () => '/families'],
  ['find a usual word', (i) => `/find?words=${['seat', 'fare', 'harbour', 'island'][i % 4]}`],
  ['find two words', (i) => `/find?words=${['seat fare', 'desk closed', 'berth 7', 'cabin deck'][i % 4]}`],
  ['find a rare number', (i) => `/find?words=${1000 + i * 31}`],
  ['find nothing', (i) => `/find?words=zeppelin${i}`],
];
/** Charts over everything that is kept; the first time, runs whose parts were not counted yet are. */
const all = Math.ceil((Date.now() - Date.UTC(2025, 0, 1)) / 86_400_000);
const charts: [string, (i: number) => string][] = [
  ['trends by day', () => `/history?days=${all}`],
  ['trends by commit', () => `/history?days=${all}&per=commit`],
  ['trends of a suite', () => `/history?days=${all}&suite=booking/fare`],
  ['a test over time', (i) => `/tests/${pick(ids.tests, i)}/history?days=${all}`],
];
const firstFrom = performance.now();
await (await fetch(`${server.address}/api${charts[0]![1](0)}`)).arrayBuffer();
console.log(`trends, the first time ${((performance.now() - firstFrom) / 1000).toFixed(1)} s`);
let worst = 0;
for (const [name, path] of charts) {
  const times: number[] = [];
  for (let i = 0; i < 20; i++) {
    const from = performance.now();
    const answer = await fetch(`${server.address}/api${path(i)}`);
    await answer.arrayBuffer();
    if (!answer.ok) throw new Error(`${path(i)}: ${answer.status}`);
    times.push(performance.now() - from);
  }
  times.sort((a, b) => a - b);
  console.log(
    `${name.padEnd(20)} median ${times[10]!.toFixed(1)} ms   slowest ${times.at(-1)!.toFixed(1)} ms   goal 300`,
  );
}
for (const [name, path] of questions) {
  const times: number[] = [];
  for (let i = 0; i < asks; i++) {
    const from = performance.now();
    const answer = await fetch(`${server.address}/api${path(i)}`);
    await answer.arrayBuffer();
    if (!answer.ok) throw new Error(`${path(i)}: ${answer.status}`);
    times.push(performance.now() - from);
  }
  times.sort((a, b) => a - b);
  const p95 = times[Math.floor(asks * 0.95)]!;
  worst = Math.max(worst, p95);
  console.log(
    `${name.padEnd(20)} median ${times[asks >> 1]!.toFixed(1).padStart(6)} ms   p95 ${p95.toFixed(1).padStart(6)} ms   slowest ${times.at(-1)!.toFixed(1).padStart(6)} ms`,
  );
}
console.log(`slowest p95 ${worst.toFixed(1)} ms   goal 50`);
await server.stop();
if (!process.env.BENCH_DATA) rmSync(data, { recursive: true });
process.exit(0);
