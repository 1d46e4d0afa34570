// Records the small part of the yard that ships with the demo: three runs of a week ago, one evidence pack an attempt, to demo/yard/data.
// Run: npm run record-yard-demo
import { mkdirSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { exportPack } from '../../src/server/exports/packs.ts';
import { startRecorder } from '../recorder.ts';
import { attemptOf } from './attempt.ts';
import { mechanisms } from './mechanisms.ts';
import { startYard } from './site.ts';

const shipped = [
  'agrees-only-if-asked',
  'advert-among-offers',
  'quote-slower-than-wait',
  'name-with-apostrophe',
  'map-in-a-new-window',
  'paid-at-once-where-offered',
  'cabin-told-free',
];
/** Runs in one engine and then in the other, in which it fails. */
const inBoth = 'paid-at-once-where-offered';
/** By run: whether each attempt of each test in turn hurts. The last test passes also when it hurts. */
const runs: Record<string, boolean[][]> = {
  'harbour-31': shipped.map(() => [false]),
  'harbour-32': shipped.map((id, i) => (id === inBoth || i < 2 ? [id !== inBoth, id === inBoth] : [false])),
  'harbour-33': shipped.map((id, i) =>
    id === inBoth ? [false, true] : i === shipped.length - 1 ? [true] : i % 2 ? [true, true] : [true, false],
  ),
};
const weekMs = 7 * 86_400_000;

const folder = fileURLToPath(new URL('./data/', import.meta.url));
mkdirSync(folder, { recursive: true });
for (const old of readdirSync(folder)) rmSync(join(folder, old));
const data = mkdtempSync(join(tmpdir(), 'iskel-yard-demo-'));
const server = await startRecorder(data);
const { store } = server.services;
const yard = await startYard(mechanisms);
let count = 0;
for (const [run, plans] of Object.entries(runs)) {
  for (const [i, plan] of plans.entries()) {
    const mechanism = mechanisms.find(({ id }) => id === shipped[i])!;
    for (const [at, hurts] of plan.entries()) {
      const told = { run, suite: mechanism.suite, number: at + 1 };
      const label = await attemptOf(mechanism, {
        remote: `${server.address}/wd`,
        yard,
        hurts,
        seed: 900 + count,
        told,
      });
      console.log(`${run} ${mechanism.id} ${at + 1}: ${label.outcome} ${label.message}`);
      // The analysis has to have settled; it takes less than this.
      while (store.attempts.get(label.id)?.state !== 'ready') await new Promise((done) => setTimeout(done, 50));
      // A week ago: the newest run of the demo stays the newest.
      store.db.prepare('UPDATE attempts SET started_at = started_at - ? WHERE id = ?').run(weekMs, label.id);
      store.db
        .prepare(
          'UPDATE runs SET started_at = (SELECT min(started_at) FROM attempts WHERE run_id = runs.id) WHERE name = ?',
        )
        .run(run);
      const pack = await exportPack(store, label.id);
      writeFileSync(join(folder, `${String(++count).padStart(2, '0')}-${mechanism.id}-${at + 1}.iskel.zip`), pack!);
    }
  }
}
await yard.close();
await server.close();
rmSync(data, { recursive: true, force: true });
process.exit(0);
