import { seeded } from '../../src/core/stats/seeded.ts';

/** One try of one test, at its true time. */
export interface Try {
  key: string;
  title: string;
  number: number;
  worker: number;
  shard: number;
  from: number;
  until: number;
  failed: boolean;
}

export interface World {
  random: () => number;
  /** Whole number from low to high. */
  draw(low: number, high: number): number;
  pick<T>(list: readonly T[]): T;
  tries: Try[];
  /** Minutes east of UTC, of the machine that ran the tests. */
  zone: number;
}

const verbs = ['holds', 'shows', 'cancels', 'moves', 'prints', 'prices', 'lists', 'keeps', 'opens', 'warns of'];
const things = [
  'a seat on the evening sailing',
  'the fare of two bicycles',
  'a boarding pass for Akyaka',
  'sailings of a stormy day',
  'the cabin for a night crossing',
  'a voucher at the counter',
  'the queue of waiting cars',
  'a passenger without a card',
];
/** Zones of offices that test ferries. */
export const offices = [0, 60, 120, 180, -300, -480, 330, 345, 540, 570, -210, 630] as const;

export interface Shape {
  tests: [number, number];
  seconds: [number, number];
  workers?: number;
  shards?: number;
  retries?: boolean;
  failing?: number;
}

/** A run: its tests one after the other in each worker, some failing, some tried again. */
export function worldOf(seed: number, shape: Shape): World {
  const random = seeded(seed * 7919 + 11);
  const draw = (low: number, high: number): number => low + Math.floor(random() * (high - low + 1));
  const pick = <T>(list: readonly T[]): T => list[draw(0, list.length - 1)]!;
  const zone = pick(offices);
  const start = Date.UTC(2026, draw(0, 11), draw(1, 28), draw(0, 23), draw(0, 59), draw(0, 59), draw(0, 999));
  const workers = shape.workers ?? 1;
  const shards = shape.shards ?? 1;
  const clocks = Array.from({ length: workers * shards }, () => start + draw(0, 400));
  const tries: Try[] = [];
  const titles = new Set<string>();
  const count = draw(...shape.tests);
  while (titles.size < count) titles.add(`${pick(verbs)} ${pick(things)}${random() < 0.2 ? ' again' : ''}`);
  let n = 0;
  for (const title of titles) {
    const lane = n++ % clocks.length;
    const most = shape.retries ? 3 : 1;
    for (let number = 1; number <= most; number++) {
      const from = clocks[lane]!;
      const until = from + draw(shape.seconds[0] * 1000, shape.seconds[1] * 1000);
      clocks[lane] = until + draw(80, 900);
      const failed = random() < (shape.failing ?? 0.4);
      tries.push({
        key: `${title} #${number}`,
        title,
        number,
        worker: lane % workers,
        shard: Math.floor(lane / workers),
        from,
        until,
        failed,
      });
      if (!failed) break;
    }
  }
  return { random, draw, pick, tries, zone };
}

const two = (n: number, size = 2): string => String(Math.floor(n)).padStart(size, '0');

/** The parts of a time as a clock on the wall shows it. */
export function wall(
  at: number,
  zone: number,
): { y: string; mo: string; d: string; h: string; mi: string; s: string; ms: string } {
  const date = new Date(at + zone * 60_000);
  return {
    y: two(date.getUTCFullYear(), 4),
    mo: two(date.getUTCMonth() + 1),
    d: two(date.getUTCDate()),
    h: two(date.getUTCHours()),
    mi: two(date.getUTCMinutes()),
    s: two(date.getUTCSeconds()),
    ms: two(date.getUTCMilliseconds(), 3),
  };
}

export const offsetText = (zone: number): string =>
  `${zone < 0 ? '-' : '+'}${two(Math.abs(zone) / 60)}:${two(Math.abs(zone) % 60)}`;

/** How a report writes when something began. */
export type Stamp = 'offset' | 'zulu' | 'none';

export function stamp(at: number, zone: number, how: Stamp, fine: boolean): string {
  const t = wall(at, how === 'zulu' ? 0 : zone);
  const tail = how === 'zulu' ? 'Z' : how === 'offset' ? offsetText(zone) : '';
  return `${t.y}-${t.mo}-${t.d}T${t.h}:${t.mi}:${t.s}${fine ? `.${t.ms}` : ''}${tail}`;
}

const escaped = (text: string): string =>
  text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('"', '&quot;');

/** A report of tries, each with its own time or with the suite’s alone. */
export function report(
  world: World,
  tries: readonly Try[],
  how: { stamp: Stamp; fine: boolean; each: boolean; worker?: boolean },
): string {
  const first = Math.min(...tries.map(({ from }) => from));
  const cases = tries.map((one) => {
    const time = ((one.until - one.from) / 1000).toFixed(3);
    const when = how.each ? ` timestamp="${stamp(one.from, world.zone, how.stamp, how.fine)}"` : '';
    const worker = how.worker ? `<properties><property name="worker" value="${one.worker}"/></properties>` : '';
    const fault = one.failed ? `<failure message="expected ${one.title.length} seats, found ${one.number}"/>` : '';
    return `<testcase classname="counter" name="${escaped(one.title)}" time="${time}"${when}>${worker}${fault}</testcase>`;
  });
  return `<?xml version="1.0"?>\n<testsuite name="counter" timestamp="${stamp(first, world.zone, how.stamp, how.fine)}">\n${cases.join('\n')}\n</testsuite>\n`;
}
