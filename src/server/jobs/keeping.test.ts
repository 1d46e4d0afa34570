import { randomBytes } from 'node:crypto';
import { existsSync, mkdtempSync, readdirSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, expect, it } from 'vitest';
import type { EvidenceEvent } from '../../core/evidence/event.ts';
import { noRules } from '../../core/rules/standing-rules.ts';
import { Changes } from '../changes.ts';
import { Store } from '../store/store.ts';
import type { KeptNow } from '../../core/keeping/told.ts';
import { KeepingJobs } from './keeping.ts';

let home: string;
let store: Store;
let jobs: KeepingJobs;
beforeEach(() => {
  home = mkdtempSync(join(tmpdir(), 'iskel-keeping-'));
  store = new Store(home);
  jobs = new KeepingJobs(store, new Changes(), 0);
});
afterEach(async () => {
  await jobs.close();
  store.close();
  rmSync(home, { recursive: true });
});

const dayMs = 86_400_000;
const size = 20_000;
/** One attempt with a line in the console and pictures of its own, or shared ones. */
async function attempt(
  name: string,
  more: { failed?: boolean; days?: number; pictures?: Buffer[] } = {},
): Promise<string> {
  const startedAt = Date.now() - (more.days ?? 0) * dayMs;
  const id = store.attempts.begin({
    runId: store.runs.named('nightly-1', startedAt),
    test: { suite: 's', title: name },
    environment: { browser: 'chromium', version: '156' },
    startedAt,
  });
  const events: EvidenceEvent[] = [
    {
      id: 'c',
      lane: 'console',
      kind: 'line',
      at: 1,
      clock: 'browser',
      data: { level: 'info', text: 'x'.repeat(2000) },
    },
  ];
  for (const [i, bytes] of (more.pictures ?? [randomBytes(size)]).entries()) {
    const blob = await store.blobs.keep(bytes, 'image/png');
    const data = { blob, mime: 'image/png', width: 1, height: 1, scale: 1 };
    events.push({ id: `p${i}`, lane: 'screen', kind: 'frame', at: 2 + i, clock: 'browser', data });
  }
  store.events.write(id, events);
  store.attempts.outcome(id, more.failed ? 'failed' : 'passed', '', '');
  store.attempts.setState(id, 'ready');
  store.kept.put(id);
  return id;
}
const filesOnDisk = (): number =>
  readdirSync(join(home, 'blobs'))
    .filter((two) => two.length === 2)
    .flatMap((two) =>
      readdirSync(join(home, 'blobs', two)).map((name) => statSync(join(home, 'blobs', two, name)).size),
    )
    .reduce((sum, bytes) => sum + bytes, 0);
async function letGo(keeping: Partial<(typeof noRules)['keeping']>): Promise<KeptNow> {
  store.rules.set({ ...noRules, keeping: { ...noRules.keeping, ...keeping } }, '', Date.now());
  const before = jobs.view().last?.at;
  jobs.begin();
  for (;;) {
    const { last, running, problem } = jobs.view();
    expect(problem).toBeNull();
    if (last && last.at !== before && !running) return last;
    await new Promise((done) => setTimeout(done, 20));
  }
}
const kinds = (id: string): string[] => store.events.recorded(id).map(({ lane }) => lane);
const days = (pictures: number | null, rest: number | null) => ({
  run: '',
  branch: '',
  failing: { pictures: null, rest: null },
  passing: { pictures, rest, oneIn: 1 },
});

it('lets go of pictures and then of the rest, says so, and leaves what failed, what is pinned and what others show', async () => {
  const shared = randomBytes(size);
  const old = await attempt('old', { days: 10, pictures: [randomBytes(size), shared] });
  const older = await attempt('older', { days: 40 });
  const failed = await attempt('failed', { days: 40, failed: true, pictures: [shared] });
  const pinned = await attempt('pinned', { days: 40 });
  store.kept.pin(pinned, true);
  expect(filesOnDisk()).toBe(4 * size);
  const told = await jobs.plan({ terms: [days(7, 30)], budgetGb: null });
  const done = await letGo({ terms: [days(7, 30)] });
  expect(done).toMatchObject({ attempts: 2, short: 0, stopped: false });
  // What is told beforehand is about what comes free; of the database only so much.
  expect(Math.abs(told.before - told.after - done.freed)).toBeLessThan(0.3 * done.freed);
  expect(kinds(old)).toEqual(['note', 'console']);
  expect(kinds(older)).toEqual(['note']);
  expect(kinds(failed)).toEqual(['console', 'screen']);
  expect(kinds(pinned)).toEqual(['console', 'screen']);
  expect(filesOnDisk()).toBe(2 * size);
  expect(store.kept.folder().files).toBe(2 * size);
  const [note] = store.events.recorded(old);
  expect((note!.data as { label: string }).label).toMatch(
    /^Its pictures and videos were let go of on \d{4}-\d\d-\d\d: its term was over\.$/,
  );
  expect(store.kept.of(older)).toMatchObject({ level: 0, why: 'term' });
  // Looked at once more there is nothing to do.
  expect(await letGo({ terms: [days(7, 30)], budgetGb: 100 })).toMatchObject({ attempts: 0, freed: 0 });
});

it('brings the folder under its budget, and says by how much it cannot', async () => {
  for (let i = 0; i < 12; i++) await attempt('same', { days: 12 - i });
  const failed = await attempt('failed', { failed: true, pictures: [randomBytes(30 * size)] });
  const { files, database, free } = store.kept.folder();
  const budgetGb = (files + database - free - 5 * size) / 1e9;
  const done = await letGo({ budgetGb });
  expect(done.short).toBe(0);
  expect(done.attempts).toBeGreaterThanOrEqual(5);
  const now = store.kept.folder();
  expect(now.files + now.database - now.free).toBeLessThanOrEqual(budgetGb * 1e9);
  expect(kinds(failed)).toEqual(['console', 'screen']);
  // The database gives back to the disk what is free in it.
  expect(now.free).toBeLessThan(10 * 4096);
  const never = await letGo({ budgetGb: 0.0001 });
  expect(never.short).toBeGreaterThan(30 * size - 100_000);
  expect(kinds(failed)).toEqual(['console', 'screen']);
});

it('what a killed server had not removed yet is removed, and files that nothing names', async () => {
  const half = await attempt('half', { days: 1, pictures: [randomBytes(size), randomBytes(size)] });
  // Said, and broken off before anything was removed.
  store.kept.lower({ attempt: half, to: 1, why: 'term', outcome: 'passed' }, Date.now());
  const lost = await store.blobs.keep(randomBytes(size), 'image/png');
  store.db.prepare('UPDATE blobs SET taken_at = 1 WHERE name = ?').run(lost);
  const fresh = await store.blobs.keep(randomBytes(size), 'image/png');
  await letGo({ budgetGb: 100 });
  expect(kinds(half)).toEqual(['note', 'console']);
  expect(existsSync(store.blobs.place(lost))).toBe(false);
  // It may belong to what is not written down yet.
  expect(existsSync(store.blobs.place(fresh))).toBe(true);
});

it('what was pinned or ended otherwise since it was planned stays', async () => {
  const [pinned, failed] = [await attempt('pinned', { days: 9 }), await attempt('failed', { days: 9 })];
  const planned = (await jobs.plan({ terms: [days(7, 8)], budgetGb: null })).letGo;
  store.kept.pin(pinned, true);
  store.attempts.outcome(failed, 'failed', '', '');
  for (const one of planned) store.kept.lower(one, Date.now());
  expect(planned.map(({ attempt: id }) => id).sort()).toEqual([pinned, failed].sort());
  expect([pinned, failed].map((id) => store.kept.of(id).level)).toEqual([2, 2]);
});

it('rules that change while it goes on end what was planned by those before', async () => {
  for (let i = 0; i < 60; i++) await attempt('same', { days: 70 - i, pictures: [randomBytes(200)] });
  store.rules.set({ ...noRules, keeping: { terms: [days(0, 0)], budgetGb: null } }, '', Date.now());
  jobs.begin();
  while ((jobs.view().running?.done ?? 0) === 0 && jobs.view().last === null)
    await new Promise((done) => setTimeout(done, 5));
  store.rules.set({ ...noRules, keeping: { terms: [], budgetGb: 100 } }, '', Date.now());
  jobs.begin();
  while (jobs.view().running) await new Promise((done) => setTimeout(done, 20));
  const { n } = store.db.prepare('SELECT count(*) AS n FROM kept WHERE level = 2').get() as { n: number };
  expect(n).toBeGreaterThan(0);
});

it('content that was let go of is there when it is taken in again', async () => {
  const bytes = randomBytes(size);
  await attempt('old', { days: 10, pictures: [bytes] });
  const [, name] = await Promise.all([letGo({ terms: [days(0, 0)] }), store.blobs.keep(bytes, 'image/png')]);
  expect(await store.blobs.keep(bytes, 'image/png')).toBe(name);
  expect((await store.blobs.read(name)).equals(bytes)).toBe(true);
});

const passes = (days: number) => ({
  ...noRules,
  keeping: {
    terms: [
      {
        run: '',
        branch: '',
        failing: { pictures: null, rest: null },
        passing: { pictures: days, rest: days, oneIn: 1 },
      },
    ],
    budgetGb: null,
  },
});
const over = async (): Promise<void> => {
  while (jobs.view().running) await new Promise((done) => setTimeout(done, 20));
};
const left = (): number =>
  store.db.prepare('SELECT count(*) FROM events WHERE kind <> ?').pluck().get('recorder') as number;

it('a clock that jumps lets go of nothing until a person says that it is right', async () => {
  for (let i = 0; i < 3; i++) await attempt(`t${i}`, { days: 90 });
  store.rules.set(passes(14), 'deniz', Date.now());
  store.kept.looksAfter(Date.now() - 400 * dayMs);
  const before = left();
  jobs.begin();
  expect(jobs.view().waits).toMatchObject({ why: 'clock', words: expect.stringContaining('400 days ahead') });
  expect(left()).toBe(before);
  jobs.begin(true);
  await over();
  expect(jobs.view()).toMatchObject({ waits: null, last: { attempts: 3 } });
});

it('more than half of everything at once waits for a person, unless the rules were set just now', async () => {
  for (let i = 0; i < 60; i++) await attempt(`t${i}`, { days: 90, pictures: [] });
  store.rules.set(passes(14), 'deniz', Date.now() - dayMs);
  jobs.begin();
  await over();
  expect(jobs.view()).toMatchObject({
    last: null,
    waits: { why: 'share', words: expect.stringContaining('60 of 60') },
  });
  store.rules.set(passes(13), 'deniz', Date.now());
  jobs.begin();
  await over();
  expect(jobs.view()).toMatchObject({ waits: null, last: { attempts: 60 } });
});

it('a run goes with all that only it has, and says before what that is', async () => {
  const shared = randomBytes(size);
  const own = await attempt('a', { pictures: [shared, randomBytes(size)], failed: true });
  store.find.index(own, { message: 'lantern', console: '', request: '', step: '', note: '' });
  const run = store.attempts.get(own)!.runId;
  const other = store.attempts.begin({
    runId: store.runs.named('nightly-2', Date.now()),
    test: { suite: 's', title: 'a' },
    environment: { browser: 'chromium', version: '156' },
    startedAt: Date.now(),
  });
  const blob = await store.blobs.keep(shared, 'image/png');
  store.events.write(other, [
    {
      id: 'p',
      lane: 'screen',
      kind: 'frame',
      at: 1,
      clock: 'b',
      data: { blob, mime: 'image/png', width: 1, height: 1, scale: 1 },
    },
  ]);
  const weight = await jobs.weighRun(run);
  expect(weight).toMatchObject({ attempts: 1, tests: 1, events: 3, files: 1, bytes: size });
  expect(await jobs.removeRun(run)).toEqual(weight);
  expect(store.runs.get(run)).toBeUndefined();
  expect(store.attempts.get(own)).toBeUndefined();
  expect(store.blobs.find(blob)).toBeDefined();
  expect(store.find.attempts('message', '"lantern"', 5)).toEqual([]);
  for (const table of ['events', 'blob_uses', 'kept', 'find_docs'])
    expect(store.db.prepare(`SELECT count(*) FROM ${table} WHERE attempt_id = ?`).pluck().get(own)).toBe(0);
});
