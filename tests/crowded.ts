import type { EvidenceEvent } from '../src/core/evidence/event.ts';
import { seeded } from '../src/core/stats/seeded.ts';
import { Store } from '../src/server/store/store.ts';
import sharp from 'sharp';

/** Made-up attempts with very much on every pole: what the bench must bear. */

const pages = ['/sailings', '/sailings/e-1840', '/checkout/h1', '/pass/LF-1000', '/timetable?to=Kuzu%20Island'];
const names = ['Hold seat', 'Passenger', 'Fare', 'Bicycle', 'Pay', 'Boarding pass', 'Seat 4C', 'Storm warning'];
const lines = [
  'seat panel rendered',
  'fare cache cold, asking again for the evening sailing to Kuzu Island and back',
  'tide table loaded',
  'suggestions: 4',
];

/** As many events as asked, in bursts with silences between them, with the shares a busy page has. */
export function crowdedEvents(count: number, picture: { blob: string } | undefined, seed = 7): EvidenceEvent[] {
  const random = seeded(seed);
  const pick = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)]!;
  const events: EvidenceEvent[] = [];
  let at = 0;
  let node = 1;
  let wait = '';
  for (let i = 0; i < count; i++) {
    // A burst of some hundred events, then quiet for up to half a minute.
    at += i % 700 === 699 ? 400 + random() * 20_000 : random() * 6;
    const id = `e${i + 1}`;
    const base = { id, at: Math.round(at * 100) / 100, clock: 'recorder' };
    const draw = random();
    if (draw < 0.06) {
      const label = `Press on “${pick(names)}”`;
      const data = {
        command: 'element click',
        action: 'press',
        label,
        locator: { using: 'css selector', value: `#n${i % 9}` },
      };
      events.push({ ...base, lane: 'step', kind: 'command', until: base.at + random() * 30, data } as EvidenceEvent);
    } else if (draw < 0.07) {
      wait = id;
      const data = {
        command: 'wait',
        action: 'wait',
        label: `Wait for “${pick(names)}”`,
        polls: 3,
        limitMs: 5000,
        result: '412',
      };
      events.push({ ...base, lane: 'step', kind: 'wait', until: base.at + 60, data } as EvidenceEvent);
    } else if (draw < 0.17)
      events.push({
        ...base,
        lane: 'poll',
        kind: 'poll',
        data: { wait, saw: pick(['…', '412', 'no such element: nothing matches']), ok: random() < 0.2 },
      });
    else if (draw < 0.42) {
      const own = random() < 0.7;
      const host = own ? 'ferry.test' : pick(['weather.test', 'tides.test', 'maps.harbour.test']);
      const data = {
        request: `r${i}`,
        method: 'GET',
        url: `http://${host}/api${pick(pages)}/${i}`,
        host,
        own,
        status: random() < 0.04 ? 503 : 200,
        firstByteMs: random() * 40,
      };
      events.push({ ...base, lane: 'network', kind: 'exchange', until: base.at + random() * 180, data });
    } else if (draw < 0.66) {
      const level = random() < 0.06 ? 'error' : random() < 0.15 ? 'warning' : 'info';
      events.push({
        ...base,
        lane: 'console',
        kind: random() < 0.01 ? 'exception' : 'line',
        data: { level, text: `${pick(lines)} ${i % 97}` },
      });
    } else if (draw < 0.88) {
      const kind = pick(['appeared', 'changed', 'replaced', 'removed', 'moved', 'covered'] as const);
      if (kind === 'replaced') node++;
      const gone = kind === 'removed';
      const state = {
        count: gone ? 0 : random() < 0.1 ? 3 : 1,
        node: gone ? null : node,
        name: pick(names),
        text: `reading ${i % 50}`,
        visible: true,
        box: { x: 20, y: 30, width: 120, height: 40 },
        coveredBy: kind === 'covered' ? 'div.notice' : null,
      };
      events.push({
        ...base,
        lane: 'element',
        kind,
        data: { locator: `css selector=#n${i % 9}`, label: pick(names), state },
      });
    } else if (draw < 0.95)
      events.push(
        random() < 0.5
          ? { ...base, lane: 'page', kind: 'mutations', until: base.at + 12, data: { count: 5 + (i % 40) } }
          : { ...base, lane: 'page', kind: 'focus', data: { label: `input “${pick(names)}”` } },
      );
    else if (draw < 0.98 && picture)
      events.push({
        ...base,
        lane: 'screen',
        kind: 'frame',
        data: { ...picture, mime: 'image/png', width: 640, height: 400, scale: 1 },
      });
    else events.push({ ...base, lane: 'note', kind: 'note', data: { label: `${pick(names)} looked at` } });
  }
  return events;
}

/** Writes crowded attempts into a data folder, one for each count; gives their ids. */
export async function crowdedAttempts(
  home: string,
  counts: readonly number[],
): Promise<{ run: string; ids: string[] }> {
  const store = new Store(home);
  try {
    const png = await sharp({ create: { width: 640, height: 400, channels: 3, background: '#d3e6e8' } })
      .png()
      .toBuffer();
    const blob = await store.blobs.keep(png, 'image/png');
    const startedAt = Date.UTC(2026, 10, 2, 21);
    const runId = store.runs.named('crowded', startedAt);
    const ids = counts.map((count) => {
      const events = crowdedEvents(count, { blob });
      const id = store.attempts.begin({
        runId,
        test: { suite: 'crowded', title: `with ${count} events` },
        environment: { browser: 'chromium', version: '156', width: 1280, height: 800 },
        startedAt,
      });
      store.events.write(id, events);
      store.attempts.outcome(id, 'passed', '', '');
      store.attempts.end(id, events.at(-1)!.at + 100);
      store.attempts.setState(id, 'ready');
      return id;
    });
    return { run: runId, ids };
  } finally {
    store.close();
  }
}
