import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Drill } from '../drill/drill.ts';
import { parseDrill } from '../drill/parse.ts';
import { seeded } from '../stats/seeded.ts';
import type { Remedy } from '../remedies/remedy.ts';
import type { Finding } from './findings.ts';
import { nextMend } from './mend.ts';
import {
  carriedOver,
  nextSide,
  proofOf,
  sides,
  wantedOf,
  type ProofPlan,
  type ProofTrial,
  type Side,
} from './proof.ts';
import { stepsOf } from './stressed-drill.ts';
import type { Stressor } from './stressor.ts';
import { agrees } from './tells.ts';

/** Proofs of made-up remedies, of which it is known what they do. */

const hold: Stressor = { kind: 'hold', request: 'GET /fare', ms: 600 };
const plan = (trials = 40, stressors: Stressor[] = [hold]): ProofPlan => ({ trials, stressors });

type World = Partial<Record<Side, { same?: number; other?: number; ms?: number }>>;

function prove(world: World, how = plan(), seed = 1): ProofTrial[] {
  const random = seeded(seed);
  const tried: ProofTrial[] = [];
  for (;;) {
    const next = nextSide(how, tried);
    if ('done' in next) return tried;
    if ('wait' in next) throw new Error('nothing is being played');
    const { same = 0, other = 0, ms = 1000 } = world[next.side] ?? {};
    const drawn = random();
    tried.push({ side: next.side, verdict: drawn < same ? 'same' : drawn < same + other ? 'other' : 'passed', ms });
  }
}

describe('a proof', () => {
  it('of what mends says so, with its cost and what it takes to be surer', () => {
    const [before, after] = [
      ['open "/"', 'press css "#pay"'],
      ['open "/"', 'wait until css "#pay" is there up to 5 s', 'press css "#pay"'],
    ].map((lines) => parseDrill(['drill "pays"', ...lines].join('\n')).drill!) as [Drill, Drill];
    const tried = prove({ before: { same: 1 } }).map((one, i) =>
      one.side === 'plain before'
        ? { ...one, lineTimes: [300 + 40 * (i % 7), 100] }
        : one.side === 'plain after'
          ? { ...one, lineTimes: [300 + 40 * (i % 7), 50, 90] }
          : one,
    );
    const found = proofOf({ ...plan(), drills: { before, after } }, tried);
    // What the page takes to open is another in each trial, and not the remedy's.
    expect(found.cost).toEqual({ point: 40, low: 40, high: 40 });
    expect(proofOf(plan(), tried).cost).toBeNull();
    expect(found).toMatchObject({
      verdict: 'mends',
      words: 'It failed 10 of 10 times before, and 0 of 40 times with the remedy',
      before: { done: 10, failed: 10 },
      after: { done: 40, failed: 0 },
      more: { trials: 259, words: 'to be 95 % sure that it fails under 1 % takes 259 more without a failure' },
    });
    expect(found.after.rate.high).toBeLessThan(0.1);
    expect(tried).toHaveLength(70);
  });

  it('of what mends nothing ends early', () => {
    const tried = prove({ before: { same: 1 }, after: { same: 1 } });
    expect(proofOf(plan(), tried)).toMatchObject({ verdict: 'fails', more: { trials: 0 } });
    expect(tried.length).toBeLessThan(12);
  });

  it('tells what lessens from what mends, and what breaks the test by itself', () => {
    const lessened = prove({ before: { same: 1 }, after: { same: 0.1 } }, plan(60), 3);
    expect(proofOf(plan(60), lessened).verdict).toBe('lessens');
    const broken = prove({ before: { same: 1 }, 'plain after': { other: 1 } });
    expect(proofOf(plan(), broken)).toMatchObject({ verdict: 'breaks' });
    expect(broken.length).toBeLessThan(40);
    // A failure of another kind is no mending either.
    const otherwise = prove({ before: { same: 1 }, after: { other: 1 } });
    expect(proofOf(plan(), otherwise).words).toContain('of them otherwise');
  });

  it('says that nothing is shown where the failure does not come any more', () => {
    const tried = prove({});
    expect(proofOf(plan(), tried).verdict).toBe('not provoked');
    expect(tried.length).toBeLessThan(32);
    expect(proofOf(plan(), []).verdict).toBe('unsure');
  });

  it('plays its sides in turns, waits for what is being played, and plays no more than was said', () => {
    const tried = prove({ before: { same: 1 } });
    const wanted = wantedOf(plan());
    for (const side of sides) expect(tried.filter((one) => one.side === side)).toHaveLength(wanted[side]);
    const half = tried.slice(0, 35);
    for (const side of sides) {
      const share = half.filter((one) => one.side === side).length / wanted[side];
      expect(Math.abs(share - 0.5)).toBeLessThan(0.15);
    }
    const waiting = tried.map((one, i): ProofTrial => (i === 69 ? { ...one, verdict: 'pending' } : one));
    expect(nextSide(plan(), waiting)).toEqual({ wait: true });
    // Without a provocation there is nothing to play beside.
    expect(wantedOf(plan(20, []))).toEqual({ before: 20, after: 20, 'plain before': 0, 'plain after': 0 });
  });

  it('seldom says of a remedy that does nothing that it mends, whatever the rate', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 10_000 }), fc.double({ min: 0.3, max: 1, noNaN: true }), (seed, rate) => {
        const tried = prove({ before: { same: rate }, after: { same: rate } }, plan(), seed);
        expect(proofOf(plan(), tried).verdict).not.toBe('mends');
      }),
    );
  });
});

describe('a step that comes late', () => {
  const drill = (text: string) => parseDrill(`drill "x"\n${text}`).drill!;
  const before = drill('open "/a"\npress css "#b"\npress css "#c"\npress css "#b"');

  it.each([
    ['open "/a"\nwait until css "#c" is there\npress css "#b"\npress css "#c"\npress css "#b"', [1, 3, 4, 5]],
    ['open "/a"\npress css "#b"\npress css "#c"\nread title\npress css "#b"', [1, 2, 3, 5]],
    ['open "/a"\npress css "#b"\npress css "#other"\npress css "#b"', [1, 2, 3, 4]],
  ])('is the same step in the changed drill: %s', (text, steps) => {
    const after = drill(text);
    expect(
      stepsOf(before).map((_, i) => carriedOver([{ kind: 'late-step', step: i + 1, ms: 5 }], before, after)[0]),
    ).toEqual(steps.map((step) => ({ kind: 'late-step', step, ms: 5 })));
    expect(carriedOver([hold], before, after)).toEqual([hold]);
  });
});

describe('provoke, mend, prove', () => {
  const finding = { stressors: [hold] } as unknown as Finding;
  const remedy = (id: string, cause: Remedy['cause']): Remedy => ({
    id,
    cause,
    kind: 'condition',
    words: id,
    because: '',
    drill: '',
  });
  const remedies = [remedy('r1', 'layout-variant'), remedy('r2', 'early-action'), remedy('r3', 'slow-response')];

  it('tries first what the provocation speaks for, then the next, and ends with what mends', () => {
    const first = nextMend({ findings: [finding], remedies, proofs: [] });
    expect(first).toMatchObject({ prove: { id: 'r2' }, stressors: [hold] });
    const second = nextMend({ findings: [finding], remedies, proofs: [{ remedy: 'r2', verdict: 'fails' }] });
    expect(second).toMatchObject({ prove: { id: 'r3' } });
    const proofs = [
      { remedy: 'r2', verdict: 'lessens' },
      { remedy: 'r3', verdict: 'mends' },
    ] as const;
    expect(nextMend({ findings: [finding], remedies, proofs })).toMatchObject({ mended: true });
    expect(agrees('early-action', [hold])).toBe(true);
    expect(agrees('clock-dependent', [hold])).toBe(false);
  });

  it('says in words why it ends without', () => {
    const ended = (so: Parameters<typeof nextMend>[0]): string => {
      const next = nextMend(so);
      return 'ended' in next ? next.ended : '';
    };
    expect(ended({ findings: [], remedies, proofs: [] })).toContain('no remedy can be proven');
    expect(ended({ findings: [finding], remedies: [], proofs: [] })).toContain('the remedy lies elsewhere');
    const failed = ['r1', 'r2', 'r3'].map((id) => ({ remedy: id, verdict: 'fails' as const }));
    expect(ended({ findings: [finding], remedies, proofs: failed })).toContain('none of the 3 remedies');
    expect(ended({ findings: [finding], remedies, proofs: [{ remedy: 'r1', verdict: 'not provoked' }] })).toContain(
      'could not be provoked again',
    );
  });
});
