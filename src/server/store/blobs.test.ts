import {
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  rmSync,
  statSync,
  truncateSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, expect, it } from 'vitest';
import { Store } from './store.ts';

let home: string;
let store: Store;
beforeEach(() => {
  home = mkdtempSync(join(tmpdir(), 'iskel-blobs-'));
  store = new Store(home);
});
afterEach(() => {
  store.close();
  rmSync(home, { recursive: true, force: true });
});
const reopened = (): Store => {
  store.close();
  return (store = new Store(home));
};
const begun = (): string =>
  store.attempts.begin({
    runId: store.runs.named('r', 1),
    test: { suite: '', title: 't' },
    environment: { browser: 'b', version: '1' },
    startedAt: 1,
  });

it('keeps the same content once, and whole again where the disk kept half of it', async () => {
  const name = await store.blobs.keep(Buffer.from('a made-up picture'), 'image/png');
  const path = store.blobs.place(name);
  truncateSync(path, 5);
  expect(await store.blobs.keep(Buffer.from('a made-up picture'), 'image/png')).toBe(name);
  expect(statSync(path).size).toBe(17);
  expect(readdirSync(join(home, 'blobs', 'unfinished'))).toEqual([]);
});

it('leaves nothing half-written when it cannot write', async () => {
  rmSync(join(home, 'blobs', 'unfinished'), { recursive: true });
  await expect(store.blobs.keep(Buffer.from('x'), 'image/png')).rejects.toThrow(/ENOENT/);
  expect(store.db.prepare('SELECT count(*) FROM blobs').pluck().get()).toBe(0);
});

it('removes files that no row names, once their server is gone', async () => {
  const kept = await store.blobs.keep(Buffer.from('named'), 'image/png');
  const orphan = 'ab'.repeat(32);
  const path = store.blobs.place(orphan);
  await store.blobs.keep(Buffer.from('another'), 'image/png');
  rmSync(join(home, 'blobs', 'ab'), { recursive: true, force: true });
  writeFileSync(join(home, 'blobs', 'made.txt'), 'not ours');
  const folder = join(home, 'blobs', 'ab');
  mkdirSync(folder);
  writeFileSync(path, 'nobody');
  // One that has just been written may be on its way to its row.
  expect(await store.blobs.sweepOrphans()).toBe(0);
  utimesSync(path, 1, 1);
  expect(await store.blobs.sweepOrphans()).toBe(1);
  expect(existsSync(path)).toBe(false);
  expect(existsSync(store.blobs.place(kept))).toBe(true);
  expect(existsSync(join(home, 'blobs', 'made.txt'))).toBe(true);
});

it('names no longer what is not there whole, and its attempt says so', async () => {
  const id = begun();
  const [whole, half] = [
    await store.blobs.keep(Buffer.from('whole one'), 'image/png'),
    await store.blobs.keep(Buffer.from('half of one'), 'image/png'),
  ];
  const shown = (event: string, blob: string) =>
    ({
      id: event,
      lane: 'screen',
      kind: 'frame',
      at: 1,
      clock: 'browser',
      data: { blob, mime: 'image/png', width: 1, height: 1, scale: 1 },
    }) as const;
  store.events.write(id, [shown('e1', whole!), shown('e2', half!)]);
  truncateSync(store.blobs.place(half!), 3);
  expect(await reopened().mend()).toBe(1);
  const events = store.events.recorded(id);
  expect(events.filter(({ lane }) => lane === 'screen').map((event) => event.id)).toEqual(['e1']);
  expect(events.find(({ lane }) => lane === 'note')?.data).toMatchObject({
    label: '1 picture was not written whole when the machine stopped',
  });
  expect(await reopened().mend()).toBe(0);
});

it('knows that its folder is gone', () => {
  expect(() => store.sureOfFolder()).not.toThrow();
  const later = reopened();
  rmSync(home, { recursive: true });
  expect(() => later.sureOfFolder()).toThrow(/was removed or replaced/);
});
