import { describe, expect, it } from 'vitest';
import { seeded } from '../stats/seeded.ts';
import { readLog } from './log-text.ts';
import { namedTime } from './named-times.ts';
import { timeOf } from './times.ts';

const at = Date.UTC(2026, 10, 23, 10, 0, 1);

describe('times with the month by its name', () => {
  it.each([
    ['Mon, 23 Nov 2026 10:00:01 GMT', 0, true],
    ['Monday, 23-Nov-2026 10:00:01 UTC', 0, true],
    ['Mon Nov 23 10:00:01 2026', 0, false],
    ['Mon Nov 23 10:00:01 UTC 2026', 0, true],
    ['Mon Nov 23 2026 12:00:01 GMT+0200 (Made-up Time)', 0, true],
    ['23 Nov 2026 10:00:01,250', 250, false],
    ['23-November-2026 10:00:01', 0, false],
    ['Nov 23, 2026 10:00:01 AM', 0, false],
    ['November 23, 2026, 10:00:01.5 +0000', 500, true],
    ['Nov 23, 2026 at 10:00:01 a.m.', 0, false],
    ['Mon, 23 Nov 2026 15:30:01 +0530', 0, true],
  ])('%s', (text, ms, zoned) => {
    expect(namedTime(text)).toMatchObject({ at: at + ms, zoned });
  });

  it('noon and midnight by halves of the day', () => {
    expect(namedTime('Nov 23, 2026 12:00:00 AM')!.at).toBe(Date.UTC(2026, 10, 23, 0));
    expect(namedTime('Nov 23, 2026 12:00:00 PM')!.at).toBe(Date.UTC(2026, 10, 23, 12));
  });

  it('one without a zone takes the one that is given', () => {
    expect(timeOf('23 Nov 2026 13:00:01', 180)).toBe(at);
    expect(timeOf('Mon, 23 Nov 2026 10:00:01 GMT', 180)).toBe(at);
  });

  it.each([
    '',
    'May the fare be low 2026',
    '45 Nov 2026 10:00',
    'Nov 23',
    '23 Nov 2026 25:00:00',
    'Marching 12 10:00:01 2026',
  ])('“%s” begins with none', (text) => {
    expect(namedTime(text)).toBeUndefined();
    expect(timeOf(text)).toBeUndefined();
  });

  it('reads what a page’s scripts and servers write, for any time', () => {
    const random = seeded(11);
    for (let i = 0; i < 2000; i++) {
      const time = Math.floor(random() * 4_000_000_000) * 1000;
      const date = new Date(time);
      expect(timeOf(date.toUTCString())).toBe(time);
      expect(timeOf(date.toString())).toBe(time);
    }
  });

  it('stand at the head of the lines of logs', () => {
    const log = readLog(
      'Mon, 23 Nov 2026 10:00:01 GMT ERROR [desk] no seats\n  at desk (desk.ts:4)\nMon, 23 Nov 2026 10:00:02 GMT INFO [desk] closed\n',
    )!;
    expect(log.zone).toBe('told');
    expect(log.entries).toMatchObject([
      { at, level: 'error', text: 'no seats\n  at desk (desk.ts:4)', source: 'desk' },
      { at: at + 1000, level: 'info', text: 'closed' },
    ]);
    const other = readLog('[23 Nov 2026 13:00:01,250] WARN late\n[23 Nov 2026 13:00:02,000] WARN later\n', {
      zoneMinutes: 180,
    })!;
    expect(other.entries).toMatchObject([
      { at: at + 250, level: 'warning', text: 'late' },
      { at: at + 999 + 1, level: 'warning', text: 'later' },
    ]);
  });
});
