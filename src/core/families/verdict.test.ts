import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { awaitsVerdict, decisionKinds, familyStates, verdictOf, type Decision } from './verdict.ts';

let count = 0;
const decided = (kind: Decision['kind'], more: Partial<Decision> = {}): Decision => ({
  id: ++count,
  familyId: 'f',
  at: count,
  kind,
  cause: null,
  text: '',
  until: null,
  ...more,
});

describe('what decisions come to', () => {
  it('one cause holds: the newest, named or in own words', () => {
    const confirm = decided('confirm', { cause: 'early-action' });
    const own = decided('own', { text: 'the desk’s clock is an hour off' });
    expect(verdictOf([confirm, own])).toMatchObject({ confirmed: null, ownCause: 'the desk’s clock is an hour off' });
    expect(verdictOf([own, confirm])).toMatchObject({ confirmed: 'early-action', ownCause: null });
    expect(verdictOf([own, decided('own')]).ownCause).toBeNull();
    expect(verdictOf([confirm, decided('clear', { cause: 'early-action', text: 'no' })])).toMatchObject({
      confirmed: null,
      cleared: [{ cause: 'early-action', reason: 'no' }],
    });
  });

  it('has owner, state and links, each as it was said last', () => {
    const verdict = verdictOf([
      decided('owner', { text: 'Deniz' }),
      decided('link', { text: 'https://tracker.example/17' }),
      decided('link', { text: 'https://tracker.example/18' }),
      decided('link', { text: 'https://tracker.example/17' }),
      decided('unlink', { text: 'https://tracker.example/18' }),
      decided('state', { text: 'quarantined', until: 500, at: 40 }),
    ]);
    expect(verdict).toMatchObject({
      owner: 'Deniz',
      links: ['https://tracker.example/17'],
      state: 'quarantined',
      since: 40,
      until: 500,
    });
    expect(verdictOf([decided('state', { text: 'something else' })]).state).toBe('open');
  });

  it('without the last decision it is what it was before it', () => {
    const one = fc.record({
      kind: fc.constantFrom(...decisionKinds),
      cause: fc.constantFrom('early-action' as const, 'covered-target' as const),
      text: fc.constantFrom('', 'a', 'b', ...familyStates),
    });
    fc.assert(
      fc.property(fc.array(one, { maxLength: 12 }), (list) => {
        const all = list.map(({ kind, ...more }) => decided(kind, more));
        const steps = all.map((_, i) => verdictOf(all.slice(0, i)));
        for (let i = all.length - 1; i >= 0; i--) expect(verdictOf(all.slice(0, i))).toEqual(steps[i]);
        expect(verdictOf(all).last).toEqual(all.at(-1) ?? null);
      }),
    );
  });
});

describe('whether it awaits somebody', () => {
  const now = 1000;
  const state = (text: string, until: number | null = null): Decision => decided('state', { text, until });

  it('until there is a cause, or it is settled', () => {
    expect(awaitsVerdict(verdictOf([]), now)).toBe(true);
    expect(awaitsVerdict(verdictOf([state('being mended')]), now)).toBe(true);
    expect(awaitsVerdict(verdictOf([decided('confirm', { cause: 'early-action' })]), now)).toBe(false);
    expect(awaitsVerdict(verdictOf([decided('own', { text: 'a cable' })]), now)).toBe(false);
    for (const settled of ['mended', 'will not mend', 'quarantined'])
      expect(awaitsVerdict(verdictOf([state(settled)]), now)).toBe(false);
  });

  it('again once it came back or its quarantine is over', () => {
    expect(awaitsVerdict(verdictOf([state('quarantined', now - 1)]), now)).toBe(true);
    expect(awaitsVerdict(verdictOf([state('quarantined', now + 1)]), now)).toBe(false);
    const cameBack = { at: 1, attempt: 'a', run: 'r', runId: 'r', commit: null };
    expect(awaitsVerdict({ ...verdictOf([state('mended')]), cameBack }, now)).toBe(true);
  });
});
