import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { areOwnTimes, clockOf, settleZones, spansOf, type TimedFile } from './told-spans.ts';
import { guessZone, sureOfZone, zonesOnEarth, zoneWords } from './zones.ts';

const begin = Date.UTC(2026, 10, 23, 9);
const window = { from: begin, until: begin + 90_000 };
const minute = 60_000;
const shown = (from: number, until: number, zone: number): { from: number; until: number } => ({
  from: from + zone * minute,
  until: until + zone * minute,
});

describe('the zone of a clock that names none', () => {
  it('is the one that brings it into the run, wherever on earth, a minute and a half wrong or not', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...zonesOnEarth.map(([minutes]) => minutes)),
        fc.integer({ min: 0, max: 60_000 }),
        fc.integer({ min: 1, max: 30_000 }),
        fc.integer({ min: -90_000, max: 90_000 }),
        (zone, from, lasts, skew) => {
          const span = shown(begin + from + skew, begin + from + lasts + skew, zone);
          const guess = guessZone({ spans: [span] }, [window], { report: 60 })!;
          expect(guess.minutes).toBe(zone);
          expect(guess.probability).toBeGreaterThan(0.5);
        },
      ),
    );
  });

  it('stays open where a long run fits several', () => {
    const long = [{ from: begin, until: begin + 6 * 3_600_000 }];
    const guess = guessZone({ spans: [shown(begin + 3 * 3_600_000, begin + 3 * 3_600_000 + 5000, 0)] }, long, {
      report: 60,
    });
    expect(guess!.probability).toBeLessThan(sureOfZone);
    expect(guess!.others.length).toBeGreaterThan(0);
    // Lines that name tests say which it is.
    const at = begin + 3 * 3_600_000 + 120 * minute;
    const anchors = [0, 1000, 2000].map((ms) => ({
      at: at + ms,
      span: { from: at - 120 * minute, until: at - 119 * minute },
    }));
    const anchored = guessZone({ spans: [{ from: at, until: at + 5000 }], anchors }, long);
    expect(anchored!.minutes).toBe(120);
  });

  it('is not sure where it fits nowhere', () => {
    const odd = { from: begin + 17 * minute, until: begin + 18 * minute };
    expect(guessZone({ spans: [odd] }, [window], { report: 120 })!.probability).toBeLessThanOrEqual(0.5);
    expect(guessZone({ spans: [] }, [window])).toBeUndefined();
  });

  it('is written as people write it', () => {
    expect([0, 330, -210].map(zoneWords)).toEqual(['UTC', 'UTC+05:30', 'UTC−03:30']);
  });
});

describe('what a file tells of its time', () => {
  const place = { ...window, timed: true };
  const file = (more: Partial<TimedFile>): TimedFile => ({ id: 'f', path: 'left/a.png', kind: 'moment', ...more });
  const none = { clocks: new Map<string, never>() };

  it('is its content before its name, and its name before when it was written', () => {
    const named = file({ path: `shot-${begin}.png`, written: { at: begin + 5000, local: false } });
    expect(spansOf(named, none)).toMatchObject([{ from: begin, firm: true, source: 'name' }]);
    expect(spansOf(file({ written: { at: begin + 5000, local: false } }), none)).toMatchObject([
      { until: begin + 5000, firm: false, source: 'written' },
    ]);
    const content = { from: begin + 1, until: begin + 2, local: false };
    expect(spansOf({ ...named, kind: 'lasting', content }, none)).toMatchObject([
      { from: begin + 1, source: 'content' },
    ]);
  });

  it('may be the beginning or the end of a recording', () => {
    const spans = spansOf(file({ path: `${begin}.webm`, kind: 'lasting', durationMs: 4000 }), none);
    expect(spans.map(({ from, until }) => [from - begin, until - begin])).toEqual([
      [0, 4000],
      [-4000, 0],
    ]);
  });

  it('is nothing while its zone is not sure', () => {
    const local = file({ path: 'Screenshot 2026-11-23 at 12.00.30.png' });
    expect(spansOf(local, none)).toEqual([]);
    const zones = settleZones([local], [place], 180);
    expect(zones.clocks.get(clockOf(local, 'name'))).toMatchObject({ minutes: 180, sure: true });
    expect(spansOf(local, zones)[0]!.from).toBe(begin + 30_000);
  });

  it('knows times of writing from times of copying', () => {
    const written = (at: number): TimedFile => file({ written: { at, local: false } });
    const apart = [4000, 30_000, 70_000].map((ms) => written(begin + ms));
    expect(areOwnTimes(apart, none, [place])).toBe(true);
    const copied = [0, 3, 9].map((ms) => written(begin + 60_000 + ms));
    expect(areOwnTimes(copied, none, [place])).toBe(false);
    expect(
      areOwnTimes(
        apart.map(({ written: w }) => written(w!.at + 86_400_000)),
        none,
        [place],
      ),
    ).toBe(false);
  });
});
