import { mkdtempSync, readFileSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, expect, it } from 'vitest';
import { Store } from './store.ts';

let home: string;
let store: Store;
beforeEach(() => {
  home = mkdtempSync(join(tmpdir(), 'iskel-prints-'));
  store = new Store(home);
});
afterEach(() => {
  store.close();
  rmSync(home, { recursive: true });
});

it('what a session declared is masked in what another server is told later, and stands nowhere', () => {
  expect(store.rules.masker().text('expected lantern-of-the-pier')).toContain('lantern');
  store.secrets.remember(['lantern-of-the-pier']);
  store.close();
  store = new Store(home);
  const masker = store.rules.masker();
  expect(masker.text('expected lantern-of-the-pier')).toBe('expected «masked»');
  expect(masker.text(`q=${btoa('x:lantern-of-the-pier')}`)).not.toContain(btoa('lantern-of-the').slice(4, 12));
  for (const file of ['iskel.sqlite', 'iskel.sqlite-wal', 'prints.key'])
    expect(readFileSync(join(home, file), 'latin1')).not.toContain('lantern');
});

it('nobody else reads the database or the key', () => {
  store.secrets.remember(['lantern-of-the-pier']);
  for (const file of ['iskel.sqlite', 'iskel.sqlite-wal', 'prints.key'])
    expect(statSync(join(home, file)).mode & 0o077, file).toBe(0);
});

it('a thread of the same server finds what was declared meanwhile', () => {
  const thread = new Store(home, 'thread');
  try {
    expect(thread.rules.masker().text('harbour-gate-77')).toContain('harbour');
    store.secrets.remember(['harbour-gate-77']);
    expect(thread.rules.masker().text('harbour-gate-77')).toBe('«masked»');
  } finally {
    thread.close();
  }
});
