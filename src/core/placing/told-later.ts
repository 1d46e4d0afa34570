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

export interface ToldLater {
  pairs: ToldPair[];
  /** Recordings that may be of several in the report, or several of one: none of them is guessed at. */
  doubtful: number;
}

/** A recording and its test have at least this share of the longer one's time in common. */
const leastShared = 0.5;
/** The next best has clearly less in common: this share of the best. */
const clearly = 0.7;
/** A browser is up a little before or after what a runner counts as the test, ms. */
const slackMs = 1500;
/** Times told in whole seconds were cut off. */
const cutMs = 1000;

const length = ({ from, until }: { from: number; until: number }): number => Math.max(1, until - from);
const seconds = (ms: number): string => `${(ms / 1000).toFixed(1)} s`;

/** What a test and a recording have in common of the longer one, from 0 to 1. */
function shared(test: Reported, one: Recorded): number {
  const shift = test.from % cutMs === 0 ? Math.min(Math.max(one.from - test.from, 0), cutMs) : 0;
  const [from, until] = [test.from + shift, test.until + shift];
  if (one.from < from - slackMs || one.until > until + slackMs) return 0;
  const both = Math.min(until, one.until) - Math.max(from, one.from);
  return Math.max(0, both) / Math.max(length(test), length(one));
}

/** Reports write the names of the suites before the title. */
const shortTitle = (title: string): string => title.split(/ > | › | \/ /).at(-1)!;

/** Pairs each with the one of its own, where it is clearly the best for both. */
function mutual(
  tests: readonly Reported[],
  recorded: readonly Recorded[],
): { pairs: [Reported, Recorded][]; doubtful: number } {
  const shares = tests.flatMap((test) =>
    recorded.flatMap((one) => {
      const share = shared(test, one);
      return share >= leastShared ? [{ test, one, share }] : [];
    }),
  );
  const pairs = shares
    .filter(({ test, one, share }) =>
      shares.every((other) => (other.test === test) === (other.one === one) || other.share < share * clearly),
    )
    .map(({ test, one }): [Reported, Recorded] => [test, one]);
  const some = new Set(shares.map(({ one }) => one));
  return { pairs, doubtful: some.size - pairs.length };
}

/** Zones lie a quarter of an hour apart, and no further from UTC than this, ms. */
const zoneStepMs = 900_000;
const widestZoneMs = 14 * 3_600_000;
/** Pairs that are looked at for the zone. */
const mostTried = 40;

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
      fit: mutual(
        tests.map((one) => shifted(one, shift)),
        recorded,
      ).pairs.length,
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

  const titled = <T extends { title: string }>(list: Iterable<T>): Map<string, T[]> => {
    const out = new Map<string, T[]>();
    for (const one of list) out.set(shortTitle(one.title), [...(out.get(shortTitle(one.title)) ?? []), one]);
    return out;
  };
  const named = titled(recorded);
  for (const [title, [test, ...more]] of titled(reported)) {
    const [one, ...others] = named.get(title) ?? [];
    if (test && one && more.length + others.length === 0 && (!test.timed || shared(test, one) > 0))
      pair(test, one, 'it was recorded under the same title');
  }

  const byTime = mutual(
    [...tests].filter(({ timed }) => timed),
    [...free],
  );
  for (const [test, one] of byTime.pairs)
    pair(
      test,
      one,
      `its ${seconds(length(one))} lie in the ${seconds(length(test))} that the report tells of it, and no other's do`,
    );

  const untimed = [...tests].filter(({ timed }) => !timed);
  if (untimed.length === 0 || untimed.length < tests.size) return { pairs, doubtful: byTime.doubtful };
  const inOrder = [...free].sort((a, b) => a.from - b.from);
  const parallel = inOrder.some((one, i) => i > 0 && one.from < inOrder[i - 1]!.until - slackMs);
  if (untimed.length !== inOrder.length || parallel || !alike(untimed, inOrder))
    return { pairs, doubtful: inOrder.length };
  for (const [i, test] of untimed.entries())
    pair(
      test,
      inOrder[i]!,
      `the report tells ${untimed.length} without times, and as many were recorded, one after the other: it is number ${i + 1} of both`,
    );
  return { pairs, doubtful: 0 };
}
