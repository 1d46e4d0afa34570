import { expect, it } from 'vitest';
import { exchange } from './samples.ts';
import type { Circumstances, EvidenceEvent } from './event.ts';
import { circumstanceRows } from './circumstance-rows.ts';

const startedAt = Date.UTC(2026, 4, 4, 9, 0, 0);
const told = (circumstances: Circumstances, at = 500): EvidenceEvent => ({
  id: 'c',
  lane: 'page',
  kind: 'circumstances',
  at,
  clock: 'page',
  data: { circumstances },
});
const machine = (from: number, until: number): EvidenceEvent => ({
  id: 'm',
  lane: 'page',
  kind: 'machine',
  at: 900,
  clock: 'recorder',
  data: { load: { from, until, cores: 2 } },
});
const rows = (...events: EvidenceEvent[]): Record<string, string> =>
  Object.fromEntries(
    circumstanceRows(events, { browser: 'chromium', version: '156', place: 'yard-2' }, startedAt).map(
      ({ name, value, odd }) => [name, `${odd ? '! ' : ''}${value}`],
    ),
  );

it('tells what is known, and leaves out what is not', () => {
  expect(rows()).toEqual({ Place: 'yard-2' });
  expect(
    rows(
      told({
        zone: 'Europe/Istanbul',
        zoneMinutes: 180,
        locale: 'tr-TR',
        date: startedAt + 500,
        window: [1280, 800],
        screen: [1920, 1080],
        ratio: 2,
        reducedMotion: true,
        cookies: ['visit'],
        local: [],
        session: ['draft'],
        cores: 8,
      }),
      machine(0.4, 0.6),
    ),
  ).toEqual({
    Place: 'yard-2',
    'Time zone': 'Europe/Istanbul, UTC+3',
    Language: 'tr-TR',
    'Page’s clock': '2026-05-04 09:00:00',
    Window: '1280×800',
    Screen: '1920×1080, 2 pixels each',
    Motion: 'reduced',
    Cookies: 'visit',
    Storage: 'draft',
    'Cores told': '8',
    Machine: '0.4 processes to a core at the start, 0.6 at the end, 2 cores',
  });
});

it('marks a clock that is off, against this machine and against the site’s own, and a machine that starves', () => {
  const served = exchange(0, 120, {
    url: 'http://ferry.test/',
    type: 'document',
    firstByteMs: 100,
    responseHeaders: { Date: new Date(startedAt).toUTCString() },
  });
  const seen = rows(
    told({ date: startedAt + 500 + 3_600_000, zoneMinutes: -210, zone: 'x' }),
    served,
    machine(0.2, 2.4),
  );
  expect(seen['Page’s clock']).toBe(
    '! 2026-05-04 10:00:00, +3600.0 s against this machine, +3600.1 s against the site’s own',
  );
  expect(seen['Time zone']).toBe('x, UTC−3:30');
  expect(seen.Machine).toMatch(/^! 0\.2 .* 2\.4 at the end/);
});
