import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { tellTroubles, type Trouble } from '../../core/background.ts';
import { Outbox, patienceMs } from './outbox.ts';

let fails: string | undefined;
let written: string[];
let troubles: Trouble[];
let before: (trouble: Trouble) => void;
let outbox: Outbox;
const send = (name: string, weight = 0): void =>
  outbox.send(
    'writing',
    () => {
      if (fails) throw new Error(fails);
      written.push(name);
    },
    weight,
  );

beforeEach(() => {
  vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout', 'performance'] });
  fails = undefined;
  written = [];
  troubles = [];
  before = tellTroubles((one) => void troubles.push(one));
  outbox = new Outbox('a-1');
});
afterEach(() => {
  vi.useRealTimers();
  tellTroubles(before);
});

describe('what is handed on', () => {
  it('is handed on at once where that works', () => {
    send('one');
    expect(written).toEqual(['one']);
  });

  it('waits for six seconds of a locked database, in its order, and loses nothing', async () => {
    fails = 'database is locked';
    send('begin');
    for (let i = 0; i < 20; i++) send(`batch ${i}`, 100);
    await vi.advanceTimersByTimeAsync(6000);
    expect(written).toEqual([]);
    fails = undefined;
    await vi.advanceTimersByTimeAsync(600);
    expect(written).toEqual(['begin', ...Array.from({ length: 20 }, (_, i) => `batch ${i}`)]);
    expect(outbox.broken).toBeUndefined();
    expect(troubles).toHaveLength(1);
  });

  it('gives evidence up after its patience, says why, and still writes what the attempt was', async () => {
    fails = 'disk is full';
    send('begin');
    send('batch', 100);
    await vi.advanceTimersByTimeAsync(patienceMs + 1000);
    expect(outbox.broken).toBe('disk is full');
    send('later batch', 100);
    send('end');
    fails = undefined;
    await vi.advanceTimersByTimeAsync(600);
    expect(written).toEqual(['begin', 'end']);
  });

  it('keeps no more in memory than it says', async () => {
    fails = 'database is locked';
    for (let i = 0; i < 60; i++) send(`batch ${i}`, 1000);
    expect(outbox.broken).toMatch(/memory/);
    fails = undefined;
    await vi.advanceTimersByTimeAsync(600);
    expect(written).toEqual([]);
  });

  it('tells when nothing waits any more, and does not let anybody wait for ever', async () => {
    fails = 'no';
    send('one');
    let drained = 0;
    void outbox.drained(60_000).then(() => drained++);
    void outbox.drained(50).then(() => drained++);
    await vi.advanceTimersByTimeAsync(60);
    expect(drained).toBe(1);
    fails = undefined;
    await vi.advanceTimersByTimeAsync(600);
    expect(drained).toBe(2);
  });
});
