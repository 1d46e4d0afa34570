// Whether what is recorded through `iskel browser` is judged like what is recorded through `/wd`: the demo's faulty tests both
// ways, the same visits; over DevTools a report that comes afterwards tells which test each was and what became of it.
// Run: npm run bench:stand-in-causes [attempts of each] [FAULT]
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { faultyTests } from '../demo/faults.ts';
import { startFerrySite } from '../demo/site/site.ts';
import { runAttempt } from '../demo/suite/run.ts';
import { ferryTests } from '../demo/suite/tests.ts';
import { overPipe } from '../tests/devtools-client.ts';
import { playedAsCase, reportAfterwards } from '../tests/devtools-driver.ts';
import { attemptsOfRun, eventually, ready, startServerProcess, type AttemptView } from '../tests/helpers.ts';

const each = Number(process.argv[2]) || 12;
const only = process.argv[3];
const seed = 8800;
const spool = mkdtempSync(join(tmpdir(), 'iskel-spool-'));
const [server, site] = await Promise.all([startServerProcess(), startFerrySite()]);

async function throughBrowser({ fault, title }: (typeof faultyTests)[number]): Promise<AttemptView[]> {
  const run = `browser ${fault}`;
  const test = ferryTests.find((one) => one.title === title)!;
  const client = overPipe({ ISKEL_URL: server.address, ISKEL_SPOOL: spool, ISKEL_RUN: run });
  const cases: string[] = [];
  for (let number = 1; number <= each; number++) {
    site.visits.plan(seed + number, [fault], number % 2);
    cases.push(await playedAsCase(client, test, site.address));
  }
  await client.close();
  await reportAfterwards(server.address, { spool, run, report: `${fault}.xml`, cases });
  return eventually(
    () => attemptsOfRun(server.address, (name) => name.startsWith(fault)),
    (list) => list.length === each,
    60_000,
  );
}

async function throughEndpoint({ fault, title }: (typeof faultyTests)[number]): Promise<AttemptView[]> {
  const test = ferryTests.find((one) => one.title === title)!;
  const run = `endpoint ${fault}`;
  const hurts = Array.from({ length: each }, (_, i) => i % 2 === 0);
  for (let number = 1; number <= each; number++)
    await runAttempt(
      { remote: `${server.address}/wd`, site, run, faults: { [title]: { fault, hurts, seed } } },
      test,
      number,
    );
  return attemptsOfRun(server.address, (name) => name === run);
}

const sums = { browser: { right: 0, failed: 0 }, endpoint: { right: 0, failed: 0 } };
try {
  for (const one of faultyTests.filter(({ fault }) => !only || fault === only))
    for (const [way, play] of Object.entries({ browser: throughBrowser, endpoint: throughEndpoint })) {
      const views = await Promise.all((await play(one)).map(({ id }) => ready(server.address, id)));
      const failed = views.filter(({ outcome }) => outcome === 'failed');
      const right = failed.filter(({ leading }) => leading?.cause === one.cause);
      const sum = sums[way as keyof typeof sums];
      sum.right += right.length;
      sum.failed += failed.length;
      console.log(
        `${one.fault.padEnd(22)} ${way.padEnd(9)} ${right.length} of ${failed.length} failures lead with ${one.cause}`,
      );
      for (const { id, leading, failure } of failed)
        if (leading?.cause !== one.cause)
          console.log(
            `    ${id} ${leading ? `${leading.cause} ${leading.probability.toFixed(2)}` : 'can’t tell'}: ${failure?.sentence ?? ''}`,
          );
    }
  for (const [way, { right, failed }] of Object.entries(sums)) console.log(`${way}: ${right} of ${failed}`);
} finally {
  await server.stop();
  await site.close();
  rmSync(spool, { recursive: true, force: true });
}
