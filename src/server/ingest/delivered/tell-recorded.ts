import { toldLater, type Recorded, type Reported } from '../../../core/placing/told-later.ts';
import type { Store } from '../../store/store.ts';

/** A clock that is a little wrong, ms; and one whose zone is not known. */
const around = { clock: 3_600_000, zone: 26 * 3_600_000 } as const;

/** What told of a recording that came after it. */
export const earlierReport = 'an earlier report';
/** Said of recordings that are not told of. */
export const ofSeveral =
  'ran when several tests did, so which is which is not known; name them with ISKEL_TEST, or say it on their benches';

/**
 * What was recorded and nobody told of may be what a delivery's reports tell of. Where it brought recordings and no
 * report, it may be what earlier reports told of.
 * @param intake the delivery; null for what no delivery brought
 * @param by the report, as people know it
 * @returns recordings that are now told of, attempts that got their part of one, and how many may be of several
 */
export function tellRecorded(
  store: Store,
  intake: string | null,
  by: (reported: string) => string,
  brought: readonly string[],
): { told: { recorded: string; reported: string }[]; shared: string[]; doubtful: number } {
  const mine = intake === null ? [] : store.told.reportedBy(intake);
  const [reported, recorded] = mine.length ? [mine, heldAgainst(store, mine)] : toldEarlier(store, brought);
  if (reported.length === 0 || recorded.length === 0) return { told: [], shared: [], doubtful: 0 };
  const { pairs, shared, doubtful } = toldLater(reported, recorded);
  store.inPieces(pairs, (pair) => store.told.adopt(intake, pair.recorded, pair.reported, by(pair.reported), pair.why));
  store.inPieces(shared, (one) => store.told.shareOut(intake, one.recorded, one.parts, by(one.parts[0]!.reported)));
  return { told: pairs, shared: shared.flatMap(({ parts }) => parts.map((part) => part.reported)), doubtful };
}

/** The recordings that reports may tell of: those of their time; without times, the newest run of before. */
function heldAgainst(store: Store, reported: readonly Reported[]): Recorded[] {
  const timed = reported.filter((one) => one.timed);
  if (timed.length) {
    const more = timed.some(({ unzoned }) => unzoned) ? around.zone : around.clock;
    const [from, until] = spanOf(timed);
    return store.told.untold(from - more, until + more);
  }
  const [from, until] = spanOf(reported);
  const before = store.told.untold(from - around.zone, until + around.clock);
  return before.filter(({ run }) => run === before.at(-1)!.run);
}

/** Recordings that a delivery brought, with the tests that earlier reports told of at that time. */
function toldEarlier(store: Store, brought: readonly string[]): [Reported[], Recorded[]] {
  const ids = new Set(brought);
  if (ids.size === 0) return [[], []];
  const attempts = brought.flatMap((id) => store.attempts.get(id) ?? []);
  const [from, until] = spanOf(
    attempts.map(({ startedAt, durationMs }) => ({ from: startedAt, until: startedAt + durationMs })),
  );
  const recorded = store.told.untold(from, until).filter(({ id }) => ids.has(id));
  // Without times nothing tells that an earlier report is of them.
  const reported = store.told
    .reportedAround(from - around.zone, until + around.clock)
    .filter((one) => one.timed && one.until > from - around.clock && one.from < until + around.clock);
  return [reported, recorded];
}

const spanOf = (list: readonly { from: number; until: number }[]): [number, number] => [
  list.reduce((least, { from }) => Math.min(least, from), Infinity),
  list.reduce((most, { until }) => Math.max(most, until), -Infinity),
];
