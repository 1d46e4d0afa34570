import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { decisionKinds, type Decision } from './decision.ts';
import { awaitsVerdict, familyStates, verdictOf } from './verdict.ts';

let count = 0;
const decided = (kind: Decision['kind'], more: Partial<Decision> = {}): Decision => ({
  id: ++count,
  familyId: 'f',
  at: count,
  kind,
  cause: null,
  text: '',
  until: null,
  about: null,
  pin: null,
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

  it('holds evidence for and against a hypothesis, with trials, until it is taken off', () => {
    const clock = decided('suppose', { text: 'the desk’s clock is an hour off' });
    const cable = decided('suppose', { text: 'a cable' });
    const seen = { attempt: 'a1', moment: 1200, event: 'e7', what: 'Date: 09:14' };
    const speaks = decided('speaks-for', { about: clock.id, text: 'an hour early', pin: seen });
    const tried = decided('speaks-against', { about: clock.id, pin: { series: 's1' } });
    const all = [clock, cable, speaks, tried];
    expect(verdictOf(all).hypotheses).toEqual([
      {
        id: clock.id,
        text: clock.text,
        state: 'standing',
        reason: '',
        for: [{ ...seen, id: speaks.id, at: speaks.at, text: 'an hour early' }],
        against: [{ series: 's1', id: tried.id, at: tried.at, text: '' }],
      },
      { id: cable.id, text: 'a cable', state: 'standing', reason: '', for: [], against: [] },
    ]);
    const off = verdictOf([...all, decided('unpin', { about: speaks.id })]);
    expect(off.hypotheses[0]).toMatchObject({ for: [], against: [{ series: 's1' }] });
  });

  it('a hypothesis is struck out with its reason, stands again, or is the cause', () => {
    const clock = decided('suppose', { text: 'the clock' });
    const cable = decided('suppose', { text: 'the cable' });
    const own = (about: number): Decision => decided('own', { about });
    const states = (...more: Decision[]): string[] =>
      verdictOf([clock, cable, ...more]).hypotheses.map(({ state }) => state);
    const strike = decided('strike', { about: clock.id, text: 'it is right now' });
    expect(verdictOf([clock, strike]).hypotheses[0]).toMatchObject({ state: 'struck out', reason: 'it is right now' });
    expect(states(strike, decided('restore', { about: clock.id }))).toEqual(['standing', 'standing']);
    expect(states(own(clock.id))).toEqual(['confirmed', 'standing']);
    expect(verdictOf([clock, own(clock.id)]).ownCause).toBe('the clock');
    // There is one cause, whatever it is called by.
    expect(states(own(clock.id), own(cable.id))).toEqual(['standing', 'confirmed']);
    expect(states(own(clock.id), decided('confirm', { cause: 'early-action' }))).toEqual(['standing', 'standing']);
    expect(states(own(clock.id), decided('own', { text: 'a third' }))).toEqual(['standing', 'standing']);
    expect(verdictOf([clock, own(clock.id), decided('strike', { about: clock.id })]).ownCause).toBeNull();
    expect(verdictOf([clock, decided('own', { about: 9999 })]).ownCause).toBeNull();
  });

  it('keeps notes with their moments', () => {
    const pin = { attempt: 'a1', moment: 40 };
    const [first, second] = [decided('moment', { text: 'here it jumps', pin }), decided('moment', { text: 'b', pin })];
    expect(verdictOf([first, second, decided('unpin', { about: first.id })]).moments).toEqual([
      { ...pin, id: second.id, at: second.at, text: 'b' },
    ]);
  });

  it('without the last decision it is what it was before it', () => {
    const one = fc.record({
      kind: fc.constantFrom(...decisionKinds),
      cause: fc.constantFrom('early-action' as const, 'covered-target' as const),
      text: fc.constantFrom('', 'a', 'b', ...familyStates),
      before: fc.integer({ min: 1, max: 4 }),
    });
    fc.assert(
      fc.property(fc.array(one, { maxLength: 12 }), (list) => {
        const from = count;
        const all = list.map(({ kind, before, ...more }, i) =>
          decided(kind, { ...more, about: from + 1 + i - before, pin: { attempt: 'a', moment: i } }),
        );
        const steps = all.map((_, i) => JSON.stringify(verdictOf(all.slice(0, i))));
        for (let i = all.length - 1; i >= 0; i--) expect(JSON.stringify(verdictOf(all.slice(0, i)))).toEqual(steps[i]);
        const whole = verdictOf(all);
        expect(whole.last).toEqual(all.at(-1) ?? null);
        // One cause at most, and what is confirmed by hand is it.
        const confirmed = whole.hypotheses.filter(({ state }) => state === 'confirmed');
        expect(confirmed.length).toBeLessThanOrEqual(1);
        for (const { text } of confirmed) expect(whole).toMatchObject({ ownCause: text, confirmed: null });
        const pins = whole.hypotheses.flatMap((entry) => [...entry.for, ...entry.against]);
        expect(new Set(pins.map(({ id }) => id)).size).toBe(pins.length);
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
