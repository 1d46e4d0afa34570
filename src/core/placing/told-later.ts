/** An attempt as a report tells it. Times are ms since the epoch. */
export interface Reported {
  id: string;
  title: string;
  from: number;
  until: number;
  /** The report tells when it began; otherwise only the order says anything. */
  timed: boolean;
  /** Its time names no zone and was taken as UTC. */
  unzoned?: boolean;
}

/** An attempt as it was recorded, of which nobody told what became of it. */
export type Recorded = Omit<Reported, 'timed' | 'unzoned'>;

export interface ToldPair {
  reported: string;
  recorded: string;
  /** Why they are the same attempt. */
  why: string;
}

/** A browser that stayed up for one test after the other: each has its part of the recording. */
export interface SharedRecording {
  recorded: string;
  /** In their order, with the time of each on the recording's clock. */
  parts: { reported: string; from: number; until: number }[];
}

export interface ToldLater {
  pairs: ToldPair[];
  shared: SharedRecording[];
  /** Recordings that may be of several in the report, or several of one: none of them is guessed at. */
  doubtful: number;
}

/** Of the shorter of a recording and its test at least this share lies in the other. */
const leastInside = 0.8;
/** And of the longer one this much: a runner may prepare for long, and the browser be up for little of it. */
const leastShared = 0.15;
/** The next best has clearly less of the longer one in common: this share of the best. */
const clearly = 0.7;
/** A browser is up a little before or after what a runner counts as the test, ms. */
const slackMs = 1500;
/** A recording that is this much longer than a test went on beyond it, ms. */
const stayedMs = 300;
/** Times told in whole seconds were cut off. */
const cutMs = 1000;

const length = ({ from, until }: { from: number; until: number }): number => Math.max(1, until - from);
const seconds = (ms: number): string => `${(ms / 1000).toFixed(1)} s`;

/** What a test and a recording have in common of the longer one, from 0 to 1; 0 where neither lies in the other. */
function shared(test: Reported, one: Recorded): number {
  const shift = test.from % cutMs === 0 ? Math.min(Math.max(one.from - test.from, 0), cutMs) : 0;
  const [from, until] = [test.from + shift, test.until + shift];
  if (one.from < from - slackMs || one.until > until + slackMs) return 0;
  const both = Math.max(0, Math.min(until, one.until) - Math.max(from, one.from));
  const [shorter, longer] = [length(test), length(one)].sort((a, b) => a - b) as [number, number];
  return both < shorter * leastInside ? 0 : both / longer;
}

/** Whether a test lies in a recording that goes on beyond it. */
function isWithin(test: Reported, one: Recorded): boolean {
  const both = Math.min(test.until, one.until) - Math.max(test.from, one.from);
  return length(one) > length(test) + stayedMs && both >= leastInside * length(test);
}

/** Reports write the names of the suites before the title. */
const shortTitle = (title: string): string => title.split(/ > | › | \/ /).at(-1)!;

/** A test and a recording that may be its own. */
interface Near {
  test: Reported;
  one: Recorded;
  /** Of the longer one's time in common. */
  share: number;
  /** The test lies in a recording that goes on beyond it. */
  within: boolean;
}

/** Those that lie in each other's time are found by the minutes they have in common. */
const bucketMs = 60_000;
/** A test that takes longer is looked for in its first minutes only. */
const mostBuckets = 600;

function nearOnes(tests: readonly Reported[], recorded: readonly Recorded[]): Near[] {
  const byMinute = new Map<number, Reported[]>();
  const minutes = ({ from, until }: { from: number; until: number }): number[] => {
    const first = Math.floor((from - slackMs) / bucketMs);
    const last = Math.min(Math.floor((until + slackMs + cutMs) / bucketMs), first + mostBuckets);
    return Array.from({ length: Math.max(1, last - first + 1) }, (_, i) => first + i);
  };
  for (const test of tests)
    for (const minute of minutes(test)) {
      const known = byMinute.get(minute);
      if (known) known.push(test);
      else byMinute.set(minute, [test]);
    }
  return recorded.flatMap((one) =>
    [...new Set(minutes(one).flatMap((minute) => byMinute.get(minute) ?? []))].flatMap((test) => {
      const [share, within] = [shared(test, one), isWithin(test, one)];
      return share > 0 || within ? [{ test, one, share, within }] : [];
    }),
  );
}

function grouped<T, K>(list: Iterable<T>, keyOf: (one: T) => K): Map<K, T[]> {
  const out = new Map<K, T[]>();
  for (const one of list) {
    const key = keyOf(one);
    const known = out.get(key);
    if (known) known.push(one);
    else out.set(key, [one]);
  }
  return out;
}
const byTest = (near: readonly Near[]): Map<Reported, Near[]> => grouped(near, ({ test }) => test);
const byRecording = (near: readonly Near[]): Map<Recorded, Near[]> => grouped(near, ({ one }) => one);

/** Pairs each with the one of its own, where it is clearly the best for both. */
function mutual(near: readonly Near[]): { pairs: [Reported, Recorded][]; doubtful: number } {
  const several = new Set(
    [...byRecording(near)].flatMap(([one, list]) => (list.filter(({ within }) => within).length > 1 ? [one] : [])),
  );
  // A browser that stayed up for one test after the other is none of theirs alone.
  const fits = near.filter(({ share, one, within }) => share >= leastShared && !(within && several.has(one)));
  const [ofTest, ofRecording] = [byTest(fits), byRecording(fits)];
  const pairs = fits
    .filter((own) =>
      [...ofTest.get(own.test)!, ...ofRecording.get(own.one)!].every(
        (other) => other === own || other.share < own.share * clearly,
      ),
    )
    .map(({ test, one }): [Reported, Recorded] => [test, one]);
  const paired = new Set(pairs.map(([, one]) => one));
  const doubtful = new Set(near.flatMap(({ one }) => (paired.has(one) ? [] : [one])));
  return { pairs, doubtful: doubtful.size };
}

/** Recordings that hold several tests one after the other, which lie in no other recording. */
function sharedOut(near: readonly Near[]): SharedRecording[] {
  const ofTest = byTest(near);
  return [...byRecording(near)].flatMap(([one, list]) => {
    const inside = list.flatMap(({ test, within }) => (within ? [test] : [])).sort((x, y) => x.from - y.from);
    const inTurn = inside.every((test, i) => i === 0 || test.from >= inside[i - 1]!.until - overlapMs);
    const elsewhere = inside.some((test) => ofTest.get(test)!.length > 1);
    if (inside.length < 2 || !inTurn || elsewhere) return [];
    return [{ recorded: one.id, parts: inside.map(({ id, from, until }) => ({ reported: id, from, until })) }];
  });
}
/** Tests of one worker may seem to overlap by what their times were rounded, ms. */
const overlapMs = 50;

/** Zones lie a quarter of an hour apart, and no further from UTC than this, ms. */
const zoneStepMs = 900_000;
const widestZoneMs = 14 * 3_600_000;
/** Pairs that are looked at for the zone. */
const mostTried = 40;

/** How many tests a recording is known of. */
function fitOf(tests: readonly Reported[], recorded: readonly Recorded[]): number {
  const near = nearOnes(tests, recorded);
  return mutual(near).pairs.length + sharedOut(near).reduce((sum, { parts }) => sum + parts.length, 0);
}

/** By how much times without a zone are off, as most recordings have it; 0 where none fits or two fit alike. */
function zoneShift(tests: readonly Reported[], recorded: readonly Recorded[]): number {
  if (tests.length === 0 || tests.some(({ unzoned }) => !unzoned)) return 0;
  const shifts = new Set(
    tests.slice(0, mostTried).flatMap((test) =>
      recorded.slice(0, mostTried).flatMap((one) => {
        const shift = Math.round((one.from - test.from) / zoneStepMs) * zoneStepMs;
        return Math.abs(shift) <= widestZoneMs ? [shift] : [];
      }),
    ),
  );
  const [best, next] = [...shifts]
    .map((shift) => ({
      shift,
      fit: fitOf(
        tests.map((one) => shifted(one, shift)),
        recorded,
      ),
    }))
    .sort((a, b) => b.fit - a.fit || Math.abs(a.shift) - Math.abs(b.shift));
  return best && best.fit > (next?.fit ?? 0) ? best.shift : 0;
}

const shifted = (one: Reported, by: number): Reported => ({ ...one, from: one.from + by, until: one.until + by });

/** Whether durations told in an order may be those of recordings in that order. */
const alike = (tests: readonly Reported[], recorded: readonly Recorded[]): boolean =>
  tests.every((test, i) => {
    const [told, seen] = [test.until - test.from, length(recorded[i]!)];
    return told === 0 || Math.abs(told - seen) <= Math.max(slackMs, 0.5 * Math.max(told, seen));
  });

/**
 * Which recorded attempt is which of a report's: by its title where the client gave it one, else as the one that ran when
 * the report says that the test ran; without times by order, where as many were recorded as are told, one after the other.
 * What may be of several is left.
 */
export function toldLater(asTold: readonly Reported[], recorded: readonly Recorded[]): ToldLater {
  const by = zoneShift(
    asTold.filter(({ timed }) => timed),
    recorded,
  );
  const reported = by === 0 ? asTold : asTold.map((one) => (one.timed ? shifted(one, by) : one));
  const pairs: ToldPair[] = [];
  const tests = new Set(reported);
  const free = new Set(recorded);
  const pair = (test: Reported, one: Recorded, why: string): void => {
    pairs.push({ reported: test.id, recorded: one.id, why });
    tests.delete(test);
    free.delete(one);
  };

  const titled = <T extends { title: string }>(list: Iterable<T>): Map<string, T[]> =>
    grouped(list, ({ title }) => shortTitle(title));
  const named = titled(recorded);
  for (const [title, [test, ...more]] of titled(reported)) {
    const [one, ...others] = named.get(title) ?? [];
    if (test && one && more.length + others.length === 0 && (!test.timed || shared(test, one) > 0))
      pair(test, one, 'it was recorded under the same title');
  }

  const near = nearOnes(
    [...tests].filter(({ timed }) => timed),
    [...free],
  );
  const byTime = mutual(near);
  for (const [test, one] of byTime.pairs)
    pair(
      test,
      one,
      `its ${seconds(length(one))} lie in the ${seconds(length(test))} that the report tells of it, and in no other's`,
    );

  const parted = sharedOut(near.filter(({ test, one }) => tests.has(test) && free.has(one)));
  const untimed = [...tests].filter(({ timed }) => !timed);
  if (untimed.length === 0 || untimed.length < tests.size)
    return { pairs, shared: parted, doubtful: byTime.doubtful - parted.length };
  const inOrder = [...free].sort((a, b) => a.from - b.from);
  const parallel = inOrder.some((one, i) => i > 0 && one.from < inOrder[i - 1]!.until - slackMs);
  if (untimed.length !== inOrder.length || parallel || !alike(untimed, inOrder))
    return { pairs, shared: parted, doubtful: inOrder.length };
  for (const [i, test] of untimed.entries())
    pair(
      test,
      inOrder[i]!,
      `the report tells ${untimed.length} without times, and as many were recorded, one after the other: it is number ${i + 1} of both`,
    );
  return { pairs, shared: parted, doubtful: 0 };
}
