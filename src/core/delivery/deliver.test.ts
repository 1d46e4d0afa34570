import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { DeliveryView, IntakeResult } from '../records.ts';
import { deliver, RefusedCall, type Line, type Sendable } from './deliver.ts';

const result: IntakeResult = { runId: 'r-1', attempts: 1, attached: 0, unmatched: [], problems: [] };

/** A server that breaks whenever it is told to, and keeps what has come. */
class Broken implements Line<Uint8Array> {
  readonly kept = new Map<string, number[][]>();
  private open = false;
  private state: DeliveryView['state'] = 'receiving';
  private sizes: number[] = [];
  announced = 0;
  constructor(private readonly breaks: (call: number) => 'no' | 'before' | 'after' | 'restart') {}
  private calls = 0;

  private view(): DeliveryView {
    return {
      id: 'd-1',
      state: this.state,
      names: [],
      files: this.sizes.length,
      size: 0,
      sent: 0,
      begunAt: 0,
      doing: '',
      done: 0,
      of: null,
      fates: {},
      here: this.open,
      result: this.state === 'done' ? result : null,
      problem: null,
    };
  }
  private have(n: number): number {
    return (this.kept.get(String(n)) ?? []).reduce((sum, one) => sum + one.length, 0);
  }
  private async unlessBroken<T>(work: () => T): Promise<T> {
    const how = this.breaks(this.calls++);
    if (how === 'restart') {
      this.open = false;
      if (this.state === 'waiting') this.state = 'receiving';
    }
    if (how === 'before' || how === 'restart') throw new RefusedCall(0, 'unreachable', 'nobody answers');
    const out = work();
    if (how === 'after') throw new RefusedCall(0, 'unreachable', 'the answer was lost');
    return Promise.resolve(out);
  }
  ask<T>(method: string, path: string, body?: object): Promise<T> {
    return this.unlessBroken(() => {
      if (method === 'DELETE') {
        this.kept.clear();
        this.state = 'receiving';
        return {} as T;
      }
      if (path === '/deliveries') {
        this.announced++;
        this.open = true;
        this.sizes = (body as { files: { size: number }[] }).files.map(({ size }) => size);
        return { id: 'd-1', have: this.sizes.map((_, n) => this.have(n)), view: this.view() } as T;
      }
      if (!this.open) throw new RefusedCall(404, 'not-open', 'announce it again');
      if (path.endsWith('/take')) {
        if (this.sizes.some((size, n) => this.have(n) < size)) throw new RefusedCall(409, 'not-whole', 'send the rest');
        if (this.state === 'receiving') this.state = 'waiting';
        return this.view() as T;
      }
      if (this.state === 'waiting') this.state = 'done';
      return this.view() as T;
    });
  }
  put(path: string, piece: Uint8Array): Promise<{ have: number }> {
    return this.unlessBroken(() => {
      if (!this.open) throw new RefusedCall(404, 'not-open', 'announce it again');
      const [, number, from] = /files\/(\d+)\?from=(\d+)$/.exec(path)!;
      if (Number(from) !== this.have(Number(number))) throw new RefusedCall(409, 'elsewhere', 'go on from there');
      // Some of it only, now and then.
      const part = piece.slice(0, Math.max(1, piece.length - (this.calls % 3)));
      this.kept.set(number!, [...(this.kept.get(number!) ?? []), [...part]]);
      return { have: this.have(Number(number)) };
    });
  }
  pause = (): Promise<void> => Promise.resolve();
}

const fileOf = (bytes: Uint8Array, n: number): Sendable<Uint8Array> => ({
  name: `${n}.log`,
  size: bytes.length,
  piece: (from, until) => bytes.slice(from, until),
});

describe('sending a delivery', () => {
  it('brings every byte once, whatever breaks on the way', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.uint8Array({ maxLength: 12 }), { minLength: 1, maxLength: 4 }),
        fc.array(fc.constantFrom('no', 'no', 'no', 'before', 'after', 'restart'), { maxLength: 40 }),
        async (contents, breaks) => {
          const line = new Broken((call) => (breaks[call] as 'no' | undefined) ?? 'no');
          const done = await deliver({ key: 'ab', files: contents.map(fileOf), fields: {}, line });
          expect(done.result).toEqual(result);
          contents.forEach((bytes, n) => expect((line.kept.get(String(n)) ?? []).flat()).toEqual([...bytes]));
        },
      ),
    );
  });

  it('gives up with the words of the last trouble once its patience is over', async () => {
    const line = new Broken(() => 'before');
    const sent = deliver({ key: 'ab', files: [fileOf(new Uint8Array(3), 0)], fields: {}, line, patienceMs: 5 });
    await expect(sent).rejects.toThrow('nobody answers');
  });

  it('stops when it is asked to, between two pieces', async () => {
    let asked = 0;
    const line = new Broken(() => 'no');
    const files = Array.from({ length: 5 }, (_, n) => fileOf(new Uint8Array(4), n));
    const sent = deliver({ key: 'ab', files, fields: {}, line, stopped: () => ++asked > 2 });
    await expect(sent).rejects.toMatchObject({ code: 'stopped' });
    expect(line.kept.size).toBeLessThan(5);
  });

  it('gives anew what was given and ended before', async () => {
    const line = new Broken(() => 'no');
    const work = { key: 'ab', files: [fileOf(new Uint8Array([1, 2]), 0)], fields: {}, line };
    await deliver(work);
    const announced = line.announced;
    await deliver(work);
    expect(line.announced).toBe(announced + 2);
    expect(line.kept.get('0')!.flat()).toEqual([1, 2]);
  });
});
