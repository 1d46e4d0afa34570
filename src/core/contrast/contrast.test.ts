import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { align } from './align.ts';
import { contrast } from './contrast.ts';
import { lineUp } from './line-up.ts';
import { sketch, step } from './samples.ts';
import { contrastView } from './view.ts';

const equal = (a: string, b: string): boolean => a === b;
const like = (a: string, b: string): number | undefined => (a === b ? 2 : undefined);

describe('alignment', () => {
  const letters = fc.array(fc.constantFrom('a', 'b', 'c', 'd'), { maxLength: 30 });

  it('lays a sequence on itself, and on itself with something left out or put in', () => {
    fc.assert(
      fc.property(letters, fc.nat(), (list, cut) => {
        expect([...align(list, list, like, equal)]).toEqual(list.map((_, i) => i));
        if (list.length === 0) return;
        const at = cut % list.length;
        const shorter = list.toSpliced(at, 1);
        const laid = align(list, shorter, like, equal);
        expect(laid.filter((j) => j < 0)).toHaveLength(1);
        laid.forEach((j, i) => j >= 0 && expect(shorter[j]).toBe(list[i]));
      }),
    );
  });

  it('keeps order, and pairs each only once and only with its like', () => {
    fc.assert(
      fc.property(letters, letters, (a, b) => {
        const pairs = [...align(a, b, like, equal)].flatMap((j, i) => (j < 0 ? [] : [[i, j] as const]));
        pairs.forEach(([i, j], k) => {
          expect(a[i]).toBe(b[j]);
          if (k > 0) expect(j).toBeGreaterThan(pairs[k - 1]![1]);
        });
      }),
    );
  });
});

describe('the line-up', () => {
  it('gives what only some did a place of its own, where they did it', () => {
    const one = sketch('a', [step('open'), step('press #a'), step('press #b')]);
    const more = sketch('b', [step('open'), step('press #extra'), step('press #a'), step('press #b')]);
    const slots = lineUp([one, more, more], 0);
    expect(slots.map(({ sig }) => sig)).toEqual(['open', 'press #extra', 'press #a', 'press #b']);
    expect([...slots[1]!.members]).toEqual([-1, 1, 1]);
  });

  it('holds every step of every attempt exactly once, in its order', () => {
    const attempts = fc.array(fc.array(fc.constantFrom('a', 'b', 'c'), { maxLength: 12 }), {
      minLength: 1,
      maxLength: 5,
    });
    fc.assert(
      fc.property(attempts, fc.nat(), (lists, n) => {
        const all = lists.map((list, i) =>
          sketch(
            String(i),
            list.map((sig) => step(sig)),
          ),
        );
        const slots = lineUp(all, n % all.length);
        all.forEach(({ steps }, who) => {
          const seen = slots.flatMap(({ members }) => (members[who]! >= 0 ? [members[who]!] : []));
          expect(seen).toEqual(steps.map((_, i) => i));
        });
      }),
    );
  });
});

describe('a contrast', () => {
  const passing = (count: number) =>
    Array.from({ length: count }, (_, i) =>
      sketch(`p${i}`, [step('open'), step('read text #fare', { value: '412' }), step('press #hold')], {
        requests: [['GET /fare', 20, 60 + i]],
      }),
    );
  const failing = sketch('f', [step('open'), step('read text #fare', { value: '…', inFlight: { 'GET /fare': 300 } })], {
    requests: [['GET /fare', 20, 500]],
  });

  it('finds what parts one from many, and where', () => {
    const { split, differences, weak } = contrast([failing], passing(12));
    // The answer was missing before the second step began: it parts there, at the time all others had it.
    expect(split).toMatchObject({ slot: 0, at: 71, summary: expect.stringContaining('GET /fare') as string });
    expect(weak).toBe(true);
    const value = differences.find(({ kind }) => kind === 'value')!;
    expect(value).toMatchObject({
      failing: [1, 1],
      passing: [0, 12],
      strong: true,
      words: { here: '…', there: '412' },
    });
    expect(value.p).toBeCloseTo(1 / 13, 9);
    expect(differences.find(({ kind }) => kind === 'latency')).toMatchObject({ failing: [1, 1], strong: true });
  });

  it('is sure with many on both sides, and says so with the rates', () => {
    const many = Array.from({ length: 8 }, (_, i) => ({ ...failing, id: `f${i}` }));
    const { differences, weak } = contrast(many, passing(12));
    expect(weak).toBe(false);
    expect(differences[0]!.q).toBeLessThan(0.01);
    expect(differences[0]!.failing).toEqual([8, 8]);
  });

  it('with one against one says how weak it is, and trusts nothing that varies by itself', () => {
    const { differences, weak } = contrast([failing], passing(1));
    expect(weak).toBe(true);
    expect(differences.filter(({ strong }) => strong).map(({ kind }) => kind)).not.toContain('latency');
    expect(differences.find(({ kind }) => kind === 'value')).toMatchObject({ strong: true, p: 1 });
  });

  it('without a passing attempt has nothing to tell, and without a failing one is refused', () => {
    expect(contrast([failing], [])).toMatchObject({ differences: [], typical: -1 });
    expect(() => contrast([], passing(2))).toThrow(RangeError);
  });

  it('does not call missing what comes after the end of an attempt', () => {
    const { differences } = contrast([failing], passing(5));
    expect(differences.filter(({ kind }) => kind === 'step')).toEqual([]);
    const skipped = sketch('s', [step('open'), step('press #hold')]);
    expect(contrast([skipped], passing(5)).differences.find(({ kind }) => kind === 'step')).toMatchObject({
      failing: [1, 1],
      passing: [0, 5],
      summary: expect.stringContaining('was not done') as string,
    });
  });

  it('does not call missing what nobody wrote down', () => {
    const steps = [step('open'), step('read text #fare', { value: '…' }), step('press #hold')];
    const talks = passing(6).map((one) => ({
      ...one,
      console: [{ key: 'fare ready', level: 'info', uncaught: false, at: 90, event: 'c1', text: 'fare ready' }],
      dialogs: [{ at: 95, event: 'd1', text: 'Welcome' }],
    }));
    const kinds = (more: object): string[] =>
      contrast([sketch('b', steps, more)], talks).differences.map(({ kind }) => kind);
    expect(kinds({ blind: true })).toEqual(['value']);
    // Where something was written down, what is not there was not.
    expect(kinds({ requests: [['GET /port', 20, 30]] })).toEqual(
      expect.arrayContaining(['value', 'request', 'console', 'dialog']),
    );
  });

  it('finds nothing between groups drawn from the same attempts', () => {
    const all = passing(40);
    const { differences } = contrast(all.slice(0, 20), all.slice(20));
    expect(differences.filter(({ strong }) => strong)).toEqual([]);
  });

  it('tells differences of the environment apart from what happened', () => {
    const narrow = { ...failing, environment: { ...failing.environment, width: 600, height: 800 } };
    const { differences, split } = contrast([narrow], passing(6));
    expect(differences.find(({ summary }) => summary.includes('600×800'))).toMatchObject({
      kind: 'environment',
      slot: -1,
    });
    expect(split!.slot).toBe(0);
  });

  it('does not care in which order the attempts are given', () => {
    const list = passing(6);
    const told = (order: typeof list) =>
      contrast([failing], order)
        .differences.map(
          ({ summary, p, failing: f, passing: s }) => `${summary} ${p.toFixed(9)} ${f.join()} ${s.join()}`,
        )
        .sort();
    expect(told(list)).toEqual(told(list.toReversed()));
  });
});

it('a view holds both sides, every place, and an event for each difference', () => {
  const one = sketch('f', [step('open'), step('press #b', { error: 'stale element reference' })]);
  const other = sketch('p', [step('open'), step('press #b'), step('read text #c', { value: 'done' })]);
  const view = contrastView([one], [other, { ...other, id: 'q' }]);
  expect(view).toMatchObject({ left: { id: 'f' }, split: { stepIndex: 1 }, weak: true });
  expect(view.slots.map(({ left, right }) => [left !== null, right !== null])).toEqual([
    [true, true],
    [true, true],
    [false, true],
  ]);
  for (const { shown } of view.differences) expect(shown.filter(Boolean).length).toBeGreaterThan(0);
  expect(contrastView([one], []).right).toBeNull();
});
