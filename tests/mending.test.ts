import type { Browser, Page } from 'playwright-core';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { faultyTests } from '../demo/faults.ts';
import { startFerrySite, type FerrySite } from '../demo/site/site.ts';
import { runAttempt } from '../demo/suite/run.ts';
import { ferryTests } from '../demo/suite/tests.ts';
import { parseDrill } from '../src/core/drill/parse.ts';
import { eventually, json, openBrowser, openScreen, ready, startServerProcess, type ServerProcess } from './helpers.ts';

/** From one press on the bench of a flake to its cause, its dose, a remedy and the proof of it, in a real browser. */

const { fault, title, path, cause } = faultyTests.find((one) => one.fault === 'panel-rendered-anew')!;

let server: ServerProcess;
let site: FerrySite;
let browser: Browser;
let page: Page;
let attempt: string;
const troubles: string[] = [];
const trials = 5;

beforeAll(async () => {
  [server, site] = await Promise.all([startServerProcess(), startFerrySite()]);
  const test = ferryTests.find((one) => one.title === title)!;
  const ids: { id: string; passed: boolean }[] = [];
  for (let number = 1; number <= 4; number++) {
    // Two visits that hurt, whose fare comes so late that the test is seen to wait for it, and two that do not.
    const hurts = [true, true, false, false].slice(0, number);
    const run = { remote: `${server.address}/wd`, site, run: 'mending' };
    ids.push(
      await runAttempt(
        { ...run, faults: { [title]: { fault, hurts, seed: 35, hurting: { fareMs: 1600 } } } },
        test,
        number,
      ),
    );
  }
  for (const { id } of ids) await ready(server.address, id);
  attempt = ids.find(({ passed }) => !passed)!.id;
  // By itself it fails once in twenty visits.
  site.visits.stand(path, [fault], 0.05);
  browser = await openBrowser();
  page = await openScreen(browser);
  page.on('pageerror', (error) => troubles.push(error.message));
}, 120_000);
afterAll(async () => {
  await browser?.close();
  await server.stop();
  await site.close();
});

interface Advice {
  remedies: { id: string; cause: string; words: string; drill: string }[];
}
interface Proof {
  id: string;
  verdict: string;
  words: string;
  before: { done: number; failed: number };
  after: { done: number; failed: number };
  cost: { point: number; low: number; high: number } | null;
  more: { trials: number };
}
interface Mending {
  state: string;
  ended: string | null;
  problem: string | null;
  search: { trials: object[]; findings: { words: string; dose: { low: number; high: number } | null }[] };
  proofs: Proof[];
}

it('advice can be played: each remedy is a drill that reads well', async () => {
  const { body } = await json<Advice>('GET', `${server.address}/api/attempts/${attempt}/advice`);
  expect(body.remedies.length).toBeGreaterThan(0);
  const [first] = body.remedies;
  expect(first).toMatchObject({ cause, words: expect.stringContaining('anew right before') as string });
  for (const { drill } of body.remedies) expect(parseDrill(drill).errors).toEqual([]);
  const made = await json<{ id: string; text: string }>('POST', `${server.address}/api/drills`, {
    attemptId: attempt,
    remedy: first!.id,
  });
  expect(made).toMatchObject({ status: 201, body: { text: first!.drill } });
  const none = await json<{ error: { message: string } }>('POST', `${server.address}/api/drills`, {
    attemptId: attempt,
    remedy: 'r-none',
  });
  expect(none.status).toBe(404);
  expect(none.body.error.message).toContain(first!.id);
});

it('one press provokes it, mends it and proves that, over a server that is killed on the way', async () => {
  await page.goto(`${server.address}/attempts/${attempt}`);
  // The same as anybody's press, with fewer trials of the proof, and a search of late answers alone.
  await page.route('**/api/mendings', (route) =>
    route.continue({
      postData: JSON.stringify({
        ...(route.request().postDataJSON() as object),
        trials,
        budget: { trials: 18, minutes: 5 },
        allow: ['hold'],
      }),
    }),
  );
  await page.getByRole('button', { name: /^Mend/ }).click();
  await page.waitForURL(/\/mendings\/m-/);
  const id = page.url().split('/').at(-1)!;
  const played = async (): Promise<number> =>
    (await json<Mending>('GET', `${server.address}/api/mendings/${id}`)).body.search.trials.length;
  const before = await eventually(played, (count) => count >= 4, 120_000);
  server.child.kill('SIGKILL');
  await new Promise((done) => server.child.once('exit', done));
  server = await startServerProcess({ data: server.data });
  expect(await played()).toBeGreaterThanOrEqual(before - 1);
  await page.goto(`${server.address}/mendings/${id}`);
  const found = await eventually(
    async () => (await json<Mending>('GET', `${server.address}/api/mendings/${id}`)).body,
    ({ state }) => state !== 'running',
    400_000,
  );
  expect(found.problem).toBeNull();
  expect(found.ended).toBe('Provoked, mended and proven');
  const [finding] = found.search.findings;
  expect(finding!.words).toMatch(/GET \/api\/fare\/# answers .* later; it begins at about/);
  expect(finding!.dose!.low).toBeLessThan(finding!.dose!.high);
  const proof = found.proofs.at(-1)!;
  expect(proof).toMatchObject({ verdict: 'mends', after: { done: trials, failed: 0 } });
  expect(proof.before.failed).toBeGreaterThanOrEqual(2);
  expect(proof.more.trials).toBe(299 - trials);

  await page.getByRole('heading', { name: /^Mended: find .* anew right before/ }).waitFor();
  await page.getByText(proof.words).waitFor();
  await page.getByText('press css "#hold"').waitFor();
  // Every trial opens its own bench.
  expect(await page.getByRole('link', { name: /^trial \d+, the same failure$/ }).count()).toBeGreaterThan(2);

  await page.getByRole('button', { name: 'Confirm: Replaced element' }).click();
  await page.getByRole('link', { name: 'confirmed, see its dossier' }).click();
  await page.waitForURL(/\/dossiers\//);
  const note = page.getByLabel('Note for whoever comes next');
  await eventually(
    () => note.inputValue(),
    (text) => text.includes(`Provoked, mended and proven: ${proof.words}`),
    20_000,
  );
  expect(troubles).toEqual([]);
}, 500_000);

it('what trials showed speaks for and against causes', async () => {
  interface Told {
    suspects: { cause: string; for: { code: string; summary: string }[]; against: { code: string }[] }[];
  }
  const { body } = await json<Told>('GET', `${server.address}/api/attempts/${attempt}/suspects`);
  const [leading] = body.suspects;
  expect(leading!.cause).toBe(cause);
  const shown = leading!.for.find(({ code }) => code === 'provoked-by-time');
  expect(shown!.summary).toMatch(/^Played while GET \/api\/fare\/# answers .* later, \d+ of \d+ trials fail this way$/);
  const clock = body.suspects.find((one) => one.cause === 'clock-dependent')!;
  expect(clock.against.map(({ code }) => code)).toContain('provoked-by-time');
});

it('proofs say what is wrong with what they are asked', async () => {
  const { body: made } = await json<{ id: string }>('POST', `${server.address}/api/drills`, {
    text: 'drill "by hand"\nopen "http://127.0.0.1:9/"',
  });
  const asked = async (what: object): Promise<{ status: number; code: string }> => {
    const { status, body } = await json<{ error: { code: string } }>('POST', `${server.address}/api/proofs`, what);
    return { status, code: body.error.code };
  };
  expect(await asked({ drillId: made.id, remedy: 'r-1' })).toEqual({ status: 409, code: 'no-remedies' });
  expect(await asked({ drillId: 'd-none', remedy: 'r-1' })).toEqual({ status: 404, code: 'not-found' });
  expect((await asked({ drillId: made.id })).status).toBe(400);
  expect((await json('GET', `${server.address}/api/proofs/s-none`)).status).toBe(404);
  expect((await json('POST', `${server.address}/api/mendings`, { attemptId: 'a-none' })).status).toBe(404);
});

it('a drill that was mended by hand is proven like a remedy, and stopped when that is asked', async () => {
  const add = async (wait: string): Promise<string> =>
    (
      await json<{ id: string }>('POST', `${server.address}/api/drills`, {
        text: `drill "fare"\nopen "${site.address}/sailings/e-1840"\n${wait}check text of css ".fare" is "412"`,
      })
    ).body.id;
  const [drillId, remedy] = [
    await add(''),
    await add('wait until text of css ".fare" is "412" up to 5 s every 50 ms\n'),
  ];
  const begun = await json<{ id: string }>('POST', `${server.address}/api/proofs`, {
    drillId,
    remedy,
    trials: 8,
    stressors: [{ kind: 'hold', request: 'GET /api/fare/*', ms: 400 }],
  });
  expect(begun.status).toBe(202);
  const address = `${server.address}/api/proofs/${begun.body.id}`;
  await eventually(
    async () => (await json<Proof>('GET', address)).body,
    ({ before, after }) => after.done >= 2 && before.failed >= 1,
    60_000,
  );
  const stopped = await json<Proof>('DELETE', address);
  expect(stopped.body).toMatchObject({ after: { failed: 0 } });
  expect(stopped.body.before.failed).toBeGreaterThanOrEqual(1);
  await eventually(
    async () => (await json<{ state: string }>('GET', address)).body.state,
    (state) => state === 'stopped',
    30_000,
  );
}, 120_000);
