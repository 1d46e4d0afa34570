// What `iskel browser` costs a DevTools client: the same tour of 60 commands, as fast as they go, and the tests of the ferry suite,
// through it and straight to Chromium, in turn, in one browser each that stays open; starting and ending a browser apart.
// Run: npm run bench:stand-in [pairs] [none|light|standard|full]
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { startFerrySite } from '../demo/site/site.ts';
import { ferryTests } from '../demo/suite/tests.ts';
import { median } from '../src/core/stats/median.ts';
import { openPage, overPipe, standIn, type Client } from '../tests/devtools-client.ts';
import { playedAsCase } from '../tests/devtools-driver.ts';

const pairs = Number(process.argv[2]) || 20;
const spool = mkdtempSync(join(tmpdir(), 'iskel-spool-'));
const site = await startFerrySite();
// Nobody takes in what is recorded: it is spooled.
const env = {
  ISKEL_SPOOL: spool,
  ISKEL_URL: 'http://127.0.0.1:1',
  ISKEL_DETAIL: process.argv[3] ?? 'standard',
};
const ways = { direct: '/usr/bin/chromium', through: standIn };
type Way = keyof typeof ways;

async function timed(work: () => Promise<unknown>): Promise<number> {
  const from = performance.now();
  await work();
  return performance.now() - from;
}

/** About 60 commands in a context of its own. */
async function tour(client: Client): Promise<void> {
  const page = await openPage(client, true);
  await page.open(`${site.address}/sailings/m-0710`);
  for (let i = 0; i < 4; i++) {
    await page.press('#passenger');
    await page.type('Ada');
    await page.read('document.title');
  }
  await page.open(`${site.address}/sailings?to=Kuzu%20Island`);
  for (let i = 0; i < 8; i++) await page.read(`document.querySelector('.count').textContent`);
  await page.close();
}

const started: Record<Way, number[]> = { direct: [], through: [] };
const ended: Record<Way, number[]> = { direct: [], through: [] };
for (let i = 0; i < 4; i++)
  for (const way of ['direct', 'through'] as const) {
    let client!: Client;
    started[way].push(
      await timed(async () => {
        client = overPipe(env, ways[way]);
        await client.send('Browser.getVersion');
      }),
    );
    if (way === 'through') await tour(client);
    ended[way].push(await timed(() => client.close()));
  }

const clients = { direct: overPipe(env, ways.direct), through: overPipe(env, ways.through) };
/** Not the one whose press goes beside now and then, with and without us, when it is quicker than its page stands. */
const tests = ferryTests.filter(({ suite }) => suite !== 'checkout');

/** The tests of the suite, one after the other, each in a context of its own; they wait for their pages as tests do. */
async function suite(client: Client): Promise<void> {
  for (const test of tests) {
    const told = await playedAsCase(client, test, site.address);
    if (told.includes('<failure')) throw new Error(told);
  }
}

/** The same work both ways, in turn. */
async function inPairs(
  work: (client: Client) => Promise<void>,
  count: number,
): Promise<{ ratios: number[]; times: Record<Way, number[]> }> {
  for (const way of ['direct', 'through'] as const) await work(clients[way]);
  const ratios: number[] = [];
  const times: Record<Way, number[]> = { direct: [], through: [] };
  for (let i = 0; i < count; i++) {
    const order: Way[] = i % 2 ? ['direct', 'through'] : ['through', 'direct'];
    const took = { direct: 0, through: 0 };
    for (const way of order) {
      // Half a second for what the one before left to be done.
      await new Promise((done) => setTimeout(done, 500));
      took[way] = await timed(() => work(clients[way]));
      times[way].push(took[way]);
    }
    ratios.push(took.through / took.direct);
  }
  return { ratios, times };
}

const tours = await inPairs(tour, pairs);
const suites = await inPairs(suite, Math.ceil(pairs / 3));
for (const way of ['direct', 'through'] as const) await clients[way].close();
await site.close();
rmSync(spool, { recursive: true, force: true });
const told = (list: number[]): string => `${median(list).toFixed(0)} ms`;
for (const [what, { times, ratios }] of Object.entries({ 'a tour': tours, [`${tests.length} tests`]: suites }))
  console.log(
    `${env.ISKEL_DETAIL} detail, ${what}: direct ${told(times.direct)}, through ${told(times.through)}; ratio ${median(ratios).toFixed(3)} (median of ${ratios.length} pairs)`,
  );
console.log(`first answer of a browser: direct ${told(started.direct)}, through ${told(started.through)}`);
console.log(
  `end of a browser: direct ${told(ended.direct)}, through ${told(ended.through)} (with a tour to write down)`,
);
