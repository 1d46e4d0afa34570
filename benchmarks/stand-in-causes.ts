// Whether what is recorded through `iskel browser` is judged like what is recorded through `/wd`: the demo's faulty tests both
// ways, the same visits; over DevTools a report that comes afterwards tells which test each was and what became of it.
// Run: npm run bench:stand-in-causes [attempts of each]
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { faultyTests } from '../demo/faults.ts';
import { startFerrySite } from '../demo/site/site.ts';
import { runAttempt } from '../demo/suite/run.ts';
import { stackOf } from '../demo/suite/stack.ts';
import { ferryTests, type FerryTest } from '../demo/suite/tests.ts';
import { deliver } from '../src/browser/devtools/deliver.ts';
import { overPipe, type Client } from '../tests/devtools-client.ts';
import { devtoolsDriver } from '../tests/devtools-driver.ts';
import { attemptsOfRun, eventually, ready, startServerProcess, type AttemptView } from '../tests/helpers.ts';

const each = Number(process.argv[2]) || 12;
const seed = 8800;
const spool = mkdtempSync(join(tmpdir(), 'iskel-spool-'));
const [server, site] = await Promise.all([startServerProcess(), startFerrySite()]);

const xml = (text: string): string => text.replace(/[<>&"\n]/g, (one) => `&#${one.charCodeAt(0)};`);

/** One test in a context of its own. @returns its case in the report of the runner */
async function played(client: Client, test: FerryTest): Promise<string> {
  const from = Date.now();
  let failure: Error | undefined;
  const driver = await devtoolsDriver(client);
  const expect = (label: string, actual: unknown, expected: unknown): Promise<void> =>
    actual === expected
      ? Promise.resolve()
      : Promise.reject(new Error(`${label}: expected "${String(expected)}" but got "${String(actual)}"`));
  try {
    await test.run({ driver, site: site.address, expect });
  } catch (error) {
    failure = error as Error;
    await driver.screenshot().catch(() => undefined);
  }
  await driver.quit();
  const about = failure ? `<failure message="${xml(failure.message)}">${xml(stackOf(failure))}</failure>` : '';
  return `<testcase classname="${test.suite}" name="${test.title}" file="${test.file}" timestamp="${new Date(from).toISOString()}" time="${(Date.now() - from) / 1000}">${about}</testcase>`;
}

async function throughBrowser({ fault, title }: (typeof faultyTests)[number]): Promise<AttemptView[]> {
  const run = `browser ${fault}`;
  const test = ferryTests.find((one) => one.title === title)!;
  const client = overPipe({ ISKEL_URL: server.address, ISKEL_SPOOL: spool, ISKEL_RUN: run });
  const cases: string[] = [];
  for (let number = 1; number <= each; number++) {
    site.visits.plan(seed + number, [fault], number % 2);
    cases.push(await played(client, test));
  }
  await client.close();
  await eventually(
    async () => {
      await deliver(spool);
      return attemptsOfRun(server.address, (name) => name === run);
    },
    (list) => list.length === each,
    60_000,
  );
  const form = new FormData();
  const report = `${fault}.xml`;
  form.append('file', new Blob([`<testsuite name="ferry">${cases.join('\n')}</testsuite>`]), report);
  await fetch(`${server.address}/api/intake`, { method: 'POST', body: form });
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
  for (const one of faultyTests)
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
      if (process.env.ISKEL_STEPS) for (const { id } of failed) console.log((await stepsOf(server.address, id)).join('\n'));
      for (const { id, leading, failure } of failed)
        if (leading?.cause !== one.cause)
          console.log(
            `    ${id} ${leading ? `${leading.cause} ${leading.probability.toFixed(2)}` : 'can’t tell'}: ${failure?.sentence ?? ''}`,
          );
    }
  for (const [way, { right, failed }] of Object.entries(sums)) console.log(`${way}: ${right} of ${failed}`);
  if (process.env.ISKEL_STAY) await new Promise((done) => setTimeout(done, Number(process.env.ISKEL_STAY) * 1000));
} finally {
  await server.stop();
  await site.close();
  rmSync(spool, { recursive: true, force: true });
}
async function stepsOf(a: string, id: string): Promise<string[]> {
  const { evidenceOf } = await import('../tests/helpers.ts');
  return (await evidenceOf(a, id)).flatMap((e) =>
    e.lane === 'step'
      ? [
          `      ${Math.round(e.at)} ${e.data.command} | ${e.data.label} | ${e.data.locator?.value ?? ''} | ${e.data.element ?? ''} | ${JSON.stringify(e.data.result)?.slice(0, 80)} ${e.data.error?.message ?? ''}`,
        ]
      : [],
  );
}
