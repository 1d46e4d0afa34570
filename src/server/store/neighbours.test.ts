import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { neighboursOf } from './neighbours.ts';
import { Store } from './store.ts';

let home: string;
let store: Store;
beforeEach(() => {
  home = mkdtempSync(join(tmpdir(), 'iskel-neighbours-'));
  store = new Store(home);
});
afterEach(() => {
  store.close();
  rmSync(home, { recursive: true });
});

function ran(
  title: string,
  from: number,
  ms: number,
  more: { run?: string; worker?: string; untimed?: boolean; open?: boolean } = {},
): string {
  const id = store.attempts.begin({
    runId: store.runs.named(more.run ?? 'nightly', 1),
    test: { suite: 's', title },
    environment: { browser: 'chromium', version: '156' },
    startedAt: 1_000_000 + from,
    labels: { ...(more.worker ? { worker: more.worker } : {}), ...(more.untimed ? { untimed: true } : {}) },
  });
  if (!more.open) {
    store.attempts.outcome(id, 'passed', '', '');
    store.attempts.end(id, ms);
  }
  return id;
}

describe('what ran beside an attempt', () => {
  it('is what overlapped it in the same run, in the order it began', () => {
    ran('long before', 0, 50);
    ran('overlaps its start', 40, 100);
    const own = ran('own', 100, 100);
    ran('within', 120, 10);
    ran('overlaps its end', 190, 100);
    ran('after', 230, 10);
    ran('of another run', 110, 50, { run: 'other' });
    expect(neighboursOf(store.db, own)!.beside).toEqual(['overlaps its start', 'within', 'overlaps its end']);
  });

  it('counts one that is still being recorded, and not its own retry', () => {
    ran('still under way', 20, 0, { open: true });
    const own = ran('own', 100, 100);
    ran('own', 150, 100);
    expect(neighboursOf(store.db, own)!.beside).toEqual(['still under way']);
  });

  it('tells what the same worker did right before', () => {
    ran('first', 0, 20, { worker: '1' });
    ran('second', 30, 20, { worker: '1' });
    ran('of another worker', 60, 20, { worker: '2' });
    const own = ran('own', 100, 50, { worker: '1' });
    expect(neighboursOf(store.db, own)).toEqual({ beside: [], after: 'second' });
  });

  it('is unknown where the source told no times, or there is no such attempt', () => {
    expect(neighboursOf(store.db, ran('untimed', 0, 10, { untimed: true }))).toBeUndefined();
    expect(neighboursOf(store.db, 'a-none')).toBeUndefined();
  });
});
