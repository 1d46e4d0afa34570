// Records the demo's runs by real sessions and writes one evidence pack an attempt to demo/data.
// Run: npm run record-demo
import { mkdirSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { exportPack } from '../src/server/exports/packs.ts';
import { startRecorder } from './recorder.ts';
import { demoPort } from './faults.ts';
import { startFerrySite } from './site/site.ts';
import { runSuite, type SuiteRun } from './suite/run.ts';
import { ferryTests } from './suite/tests.ts';

const folder = fileURLToPath(new URL('./data/', import.meta.url));
const [holds, extras, portsTest] = [
  'holds a seat on the evening sailing',
  'adds a bicycle to the hold',
  'suggests ports as one types',
] as const;
const [lists, cancelled] = ['lists the sailings of a day', 'marks cancelled sailings'] as const;
const runs: Omit<SuiteRun, 'remote' | 'site'>[] = [
  {
    run: 'nightly-183',
    commit: '3f9ac21d07',
    boards: { [lists]: 'fails' },
    faults: {
      [holds]: { fault: 'panel-rendered-anew', hurts: [true, false], seed: 41 },
      [extras]: { fault: 'notice-over-button', hurts: [false], seed: 42 },
    },
  },
  {
    run: 'nightly-184',
    commit: '7c1e09b4f2',
    boards: { [lists]: 'fails', [cancelled]: 'throws' },
    faults: {
      [holds]: { fault: 'panel-rendered-anew', hurts: [true, true, false], seed: 51 },
      [extras]: { fault: 'notice-over-button', hurts: [true, false], seed: 52 },
      [portsTest]: { fault: 'late-suggestions', hurts: [true, true, true], seed: 53 },
    },
  },
  {
    run: 'nightly-184',
    commit: '7c1e09b4f2',
    size: '1024,768',
    tests: ferryTests.filter(({ tags }) => tags.includes('smoke') || tags.includes('booking')),
    faults: {
      [holds]: { fault: 'panel-rendered-anew', hurts: [true, false], seed: 61 },
      [portsTest]: { fault: 'late-suggestions', hurts: [false], seed: 62 },
    },
  },
];

mkdirSync(folder, { recursive: true });
for (const old of readdirSync(folder)) rmSync(join(folder, old));
const data = mkdtempSync(join(tmpdir(), 'iskel-demo-'));
const server = await startRecorder(data);
const site = await startFerrySite(demoPort);
let count = 0;
for (const run of runs) {
  for (const { id, title, number, passed, message } of await runSuite({
    ...run,
    remote: `${server.address}/wd`,
    site,
  })) {
    const pack = await exportPack(server.services.store, id);
    writeFileSync(
      join(folder, `${String(++count).padStart(2, '0')}-${title.replaceAll(/[^a-z]+/gi, '-')}-${number}.iskel.zip`),
      pack!,
    );
    console.log(`${run.run} ${run.size ?? ''} ${title} ${number}: ${passed ? 'passed' : message}`);
  }
}
await site.close();
await server.close();
rmSync(data, { recursive: true, force: true });
process.exit(0);
