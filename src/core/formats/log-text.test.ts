import { describe, expect, it } from 'vitest';
import { levelOf, placeOnDay, readLog } from './log-text.ts';

const day = Date.UTC(2026, 10, 23, 12);
const at = (h: number, m: number, s: number, ms = 0): number => Date.UTC(2026, 10, 23, h, m, s, ms);

describe('layouts of logs', () => {
  it.each([
    ['2026-11-23T10:00:01.250Z INFO [ferry] seat held', at(10, 0, 1, 250), 'info', 'seat held', 'ferry', 'told'],
    [
      '2026-11-23 10:00:01,250 ERROR lodos.Desk - desk closed',
      at(10, 0, 1, 250),
      'error',
      'desk closed',
      'lodos.Desk',
      'assumed',
    ],
    [
      '[2026-11-23 12:00:01.250 +0200] [WARN] fare is old',
      at(10, 0, 1, 250),
      'warning',
      'fare is old',
      undefined,
      'told',
    ],
    ['2026/11/23 10:00:01 main.go: started', at(10, 0, 1), 'info', 'main.go: started', undefined, 'assumed'],
    [
      '[1123/100001.250000:ERROR:net.cc(12)] handshake failed',
      at(10, 0, 1, 250),
      'error',
      'handshake failed',
      'net.cc(12)',
      'assumed',
    ],
    [
      'Nov 23 10:00:01 ferry-ci desk[41]: ERROR no seats',
      at(10, 0, 1),
      'error',
      'no seats',
      'ferry-ci desk[41]',
      'assumed',
    ],
    ['10:00:01.250 DEBUG polling', at(10, 0, 1, 250), 'debug', 'polling', undefined, 'assumed'],
    [
      '127.0.0.1 - - [23/Nov/2026:12:00:01 +0200] "GET /fares HTTP/1.1" 200 12',
      at(10, 0, 1),
      'info',
      '"GET /fares HTTP/1.1" 200 12',
      undefined,
      'told',
    ],
    ['1795428001.250 WARNING: late', 1795428001250, 'warning', 'late', undefined, 'told'],
    ['1795428001250 error late', 1795428001250, 'error', 'late', undefined, 'told'],
    [
      '{"time":"2026-11-23T10:00:01.250Z","level":50,"msg":"late","name":"desk"}',
      at(10, 0, 1, 250),
      'error',
      'late',
      'desk',
      'told',
    ],
    ['{"ts":1795428001.25,"severity":"WARN","message":"late"}', 1795428001250, 'warning', 'late', undefined, 'told'],
    [
      '{"@timestamp":"2026-11-23 10:00:01.250","log.level":"debug","message":"late"}',
      at(10, 0, 1, 250),
      'debug',
      'late',
      undefined,
      'assumed',
    ],
  ] as const)('%s', (line, time, level, text, source, zone) => {
    const log = readLog(`${line}\n${line}\n`, { day })!;
    expect(log.entries).toHaveLength(2);
    expect(log.entries[0]!.at).toBeCloseTo(time, 3);
    expect(log.entries[0]).toMatchObject({ level, text, ...(source ? { source } : {}) });
    expect(log.entries[0]!.source).toBe(source);
    expect(log.zone).toBe(zone);
  });

  it('keeps entries of several lines whole, and says what stood before the first time', () => {
    const log = readLog(
      'starting up\n2026-11-23 10:00:01 ERROR late\n    at hold (a.ts:1)\n\n    at run\n2026-11-23 10:00:02 INFO on\n',
    )!;
    expect(log.entries.map((one) => [one.line, one.text])).toEqual([
      [2, 'late\n    at hold (a.ts:1)\n\n    at run'],
      [6, 'on'],
    ]);
    expect(log.problems[0]!.message).toContain('1 lines before');
  });
  it('takes the zone it is given, and passes midnight', () => {
    expect(readLog('2026-11-23 10:00:01 a\n2026-11-23 10:00:02 b', { zoneMinutes: 180 })!.entries[0]!.at).toBe(
      at(7, 0, 1),
    );
    const night = readLog('23:59:59 a\n00:00:01 b', { day: Date.UTC(2026, 10, 23, 23, 59) })!.entries;
    expect(night[1]!.at - night[0]!.at).toBe(2000);
    expect(placeOnDay(1000, Date.UTC(2026, 10, 23, 23, 59))).toBe(Date.UTC(2026, 10, 24, 0, 0, 1));
  });
  it('is no log without times', () => {
    expect(readLog('hello\nworld\n')).toBeUndefined();
    expect(readLog('')).toBeUndefined();
    expect(readLog('{"a":1}\n{"a":2}')).toBeUndefined();
  });
  it('knows levels by word and by number', () => {
    expect(['SEVERE', 'wrn', 'notice', 'fine', 20, 4, 'seat'].map(levelOf)).toEqual([
      'error',
      undefined,
      'info',
      'debug',
      'debug',
      'warning',
      undefined,
    ]);
  });
});
