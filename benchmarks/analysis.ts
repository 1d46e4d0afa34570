// What the analysis costs: everything said of an attempt of 100,000 events, one failing attempt held against 200 passing
// ones of 2,000 events each, how many attempts settle in a second in the server's own worker thread, what the ordinary adds to
// that, and what it costs to know it of 100,000 attempts.
// Run: npm run bench:analysis [rounds]
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';
import { analyse } from '../src/core/analyse.ts';
import { findClues } from '../src/core/clues/register.ts';
import { waitsFor } from '../src/core/clues/waits-for.ts';
import { sceneOf } from '../src/core/clues/scene.ts';
import { contrast } from '../src/core/contrast/contrast.ts';
import { sketchVersion, type Sketch } from '../src/core/contrast/sketch.ts';
import type { EvidenceEvent } from '../src/core/evidence/event.ts';
import { Ordinary } from '../src/core/ordinary/ordinary.ts';
import { lookAtFailure } from '../src/server/ingest/look.ts';
import { ordinaryOf } from '../src/server/store/ordinary-kept.ts';
import { Store } from '../src/server/store/store.ts';
import { crowdedAttempts } from '../tests/crowded.ts';

const rounds = Number(process.argv[2]) || 5;
const median = (list: number[]): number => [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)]!;
const timed = (work: () => unknown): number => {
  const from = performance.now();
  work();
  return performance.now() - from;
};
const data = mkdtempSync(join(tmpdir(), 'iskel-analysis-'));
const { ids } = await crowdedAttempts(data, [2000, 100_000]);
const store = new Store(data, 'thread');
const [small, large] = ids.map((id) => store.events.recorded(id)) as [EvidenceEvent[], EvidenceEvent[]];
const facts = {
  outcome: 'failed' as const,
  message: 'timed out after 1000 ms',
  stack: '',
  environment: { browser: 'chromium', version: '156' },
};

const scene = sceneOf(large, facts);
console.log(
  `events ${large.length}, steps ${scene.steps.length}, waits ${scene.waits.length}, requests ${scene.network.length}`,
);
const clueTimes = Array.from({ length: rounds }, () => timed(() => findClues(scene)));
console.log(`clues of 100,000 events            ${median(clueTimes).toFixed(0).padStart(7)} ms   (goal 300)`);
const wholeTimes = Array.from({ length: rounds }, () =>
  timed(() => analyse(large, facts, { id: 'a', startedAt: 0, passing: [] })),
);
console.log(`all of its analysis                ${median(wholeTimes).toFixed(0).padStart(7)} ms`);

/** The same attempt as another one would have gone: every time a little otherwise. */
function another(i: number): Sketch {
  const moved = small.map((event) => ({
    ...event,
    at: event.at * (1 + (i % 17) / 100),
    ...(event.until === undefined ? {} : { until: event.until * (1 + (i % 17) / 100) }),
  }));
  return analyse(moved, { ...facts, outcome: 'passed' }, { id: `p${i}`, startedAt: i, passing: [] }).sketch!;
}
const passing = Array.from({ length: 200 }, (_, i) => another(i));
const failing = analyse(small, facts, { id: 'f', startedAt: 0, passing: [] }).sketch!;
const contrastTimes = Array.from({ length: rounds }, () => timed(() => contrast([failing], passing)));
console.log(
  `1 against 200 of 2,000 events      ${median(contrastTimes).toFixed(0).padStart(7)} ms   (goal 1500; ${failing.steps.length} steps each)`,
);
const settled = timed(() => {
  for (let i = 0; i < 40; i++) analyse(small, facts, { id: `s${i}`, startedAt: 0, passing: passing.slice(0, 24) });
});
console.log(
  `settled a second, 24 to hold against ${(40_000 / settled).toFixed(1).padStart(5)}      (goal 10; attempts of 2,000 events)`,
);
/** What the ordinary of the workspace and the bearing of answers add to one settling, each pair beside the other. */
const ordinary = new Ordinary();
for (const one of passing) ordinary.take(one);
const held = passing.slice(0, 24);
const pairs = Array.from({ length: Math.max(8, rounds * 2) }, (_, i) => {
  const about = { id: `o${i}`, startedAt: 0, passing: held };
  const without = timed(() => analyse(small, facts, about));
  return { without, with: timed(() => analyse(small, facts, { ...about, ordinary })) };
});
const bearings = Array.from({ length: rounds }, (_, i) => {
  const about = sceneOf(small, facts, { id: `w${i}`, startedAt: 0, passing: held });
  return timed(() => waitsFor(about));
});
const bare = median(pairs.map(({ without }) => without));
console.log(
  `settled with the ordinary, ratio   ${median(pairs.map((one) => one.with / one.without))
    .toFixed(2)
    .padStart(
      7,
    )}      (goal 1.20; what passing attempts waited for: ${((median(bearings) / bare) * 100).toFixed(1)} % of it)`,
);

// A workspace of 100,000 attempts that passed: what is ordinary is read from the latest of them.
const columns = store.db.pragma('table_info(attempts)') as { name: string }[];
const taken: Record<string, string> = {
  id: "'b' || n.value",
  outcome: "'passed'",
  state: "'ready'",
  undetermined: '1',
};
const from = columns.map(({ name }) => taken[name] ?? `a.${name}`).join(', ');
store.together(() => {
  store.db.exec(`WITH RECURSIVE n (value) AS (SELECT 1 UNION ALL SELECT value + 1 FROM n WHERE value < 100000)
    INSERT INTO attempts SELECT ${from} FROM n, (SELECT * FROM attempts LIMIT 1) a`);
  store.db
    .prepare(
      `INSERT INTO sketches SELECT id, test_id, ${sketchVersion}, CASE WHEN rowid % 100 < 2 THEN ? ELSE ? END FROM attempts WHERE id LIKE 'b%'`,
    )
    .run(JSON.stringify(passing[0]), JSON.stringify({ ...passing[0], steps: [], requests: [], console: [] }));
});
const first = timed(() => ordinaryOf(store.db));
const again = Array.from({ length: rounds }, () => timed(() => ordinaryOf(store.db)));
console.log(
  `the ordinary of 100,000 attempts   ${first.toFixed(0).padStart(7)} ms once, ${median(again).toFixed(2)} ms each time after`,
);
// A page full of words as a JPEG of 1280 × 800, as the camera keeps them.
const words = Array.from(
  { length: 40 },
  (_, i) => `<text x="20" y="${i * 20 + 16}">${'Kuzu Island 07:10 adult 24.00 '.repeat(4)}</text>`,
);
const picture = await sharp(
  Buffer.from(`<svg xmlns="http://www.w3.org/2000/svg" width="1280" height="800">${words.join('')}</svg>`),
)
  .flatten({ background: '#fff' })
  .jpeg({ quality: 55 })
  .toBuffer();
const shown = {
  id: 'f',
  lane: 'screen',
  kind: 'frame',
  at: 1,
  clock: 'browser',
  data: { blob: 'b', mime: 'image/jpeg', width: 1280, height: 800, scale: 1 },
} as const;
const looks: number[] = [];
for (let i = 0; i < 20; i++) {
  const from = performance.now();
  await lookAtFailure([shown], async () => picture);
  looks.push(performance.now() - from);
}
console.log(`the picture of a failure           ${median(looks).toFixed(0).padStart(7)} ms   (more, where one failed)`);
store.close();
rmSync(data, { recursive: true, force: true });
process.exit(0);
