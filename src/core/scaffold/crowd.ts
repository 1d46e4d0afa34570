import type { EvidenceEvent, Lane } from '../evidence/event.ts';
import { elasticDefaults, scaleThrough, type ElasticOptions, type ElasticScale, type Fold } from './elastic.ts';
import { room } from './poles.ts';

/**
 * Large attempts are known whole only by the times of their events; the events themselves come for
 * the stretch that is looked at. Here is what can be said from times alone: the elastic scale, and
 * how much lies where.
 */

/** Up to so many events an attempt is sent whole. */
export const mostWhole = 2500;
/** Events that last this long, ms, are always known, so that a stretch need not look further back than this. */
export const longMs = 2000;
/** More events than this in sight are drawn as a summary, not one by one. */
export const mostInSight = 1500;

export const stopLanes = [
  'step',
  'poll',
  'element',
  'network',
  'console',
  'exception',
  'screen',
  'page',
  'window',
  'note',
  'service',
] as const;
export type StopLane = (typeof stopLanes)[number];
/** Start times by lane, ms, sorted. */
export type Stops = Partial<Record<StopLane, readonly number[]>>;

/** The pole an event's time counts on; none for a box that merely moved, nor for what went with a request. */
export function poleOf(lane: Lane, kind: string): StopLane | undefined {
  if (lane === 'console') return kind === 'exception' ? 'exception' : 'console';
  if (lane === 'body' || (lane === 'element' && kind === 'moved')) return undefined;
  return lane;
}

/** Start times by lane, from the events themselves. */
export function stopsOf(events: readonly EvidenceEvent[]): Stops {
  const stops: Partial<Record<StopLane, number[]>> = {};
  for (const event of events) {
    const pole = poleOf(event.lane, event.kind);
    if (pole) (stops[pole] ??= []).push(event.at);
  }
  for (const list of Object.values(stops)) list.sort((a, b) => a - b);
  return stops;
}

/** Room one event of a lane asks for, pixels. */
const needs: Readonly<Partial<Record<StopLane, number>>> = {
  step: room.plank,
  poll: room.poll,
  network: room.request,
  console: room.line,
  exception: room.line,
  element: room.change,
  note: room.line,
  service: room.line,
  window: room.line,
};

export interface Bins {
  /** Edges of the bins, ms: one more than there are bins. */
  edges: number[];
  /** Pixels the events of a bin ask for, on the lane that asks for most. */
  room: number[];
}

/**
 * Cuts the time of an attempt into bins with about equally many events each, and at every silence.
 * @param most bins, apart from the silences
 */
export function binsOf(stops: Stops, until: number, most = 6000): Bins {
  const lanes = stopLanes.flatMap((lane) => (stops[lane]?.length ? [{ lane, times: stops[lane] }] : []));
  const all = new Float64Array(lanes.reduce((sum, { times }) => sum + times.length, 0));
  let filled = 0;
  for (const { times } of lanes) {
    all.set(times, filled);
    filled += times.length;
  }
  all.sort();
  const each = Math.max(1, Math.ceil(all.length / most));
  const edges: number[] = [0];
  for (let i = 0, since = 0; i < all.length; i++) {
    const last = edges.at(-1)!;
    const silent = all[i]! - (i ? all[i - 1]! : 0) >= elasticDefaults.foldFromMs;
    if (silent && i && all[i - 1]! > last) edges.push(all[i - 1]!);
    if ((silent || ++since >= each) && all[i]! > edges.at(-1)!) {
      edges.push(all[i]!);
      since = 0;
    }
  }
  const last = all.at(-1) ?? 0;
  if (until - last >= elasticDefaults.foldFromMs && last > edges.at(-1)!) edges.push(last);
  if (until > edges.at(-1)!) edges.push(until);
  if (edges.length === 1) edges.push(edges[0]! + 1);
  const asked = edges.slice(1).map(() => 0);
  for (const { lane, times } of lanes) {
    const need = needs[lane] ?? 0;
    if (!need) continue;
    for (let i = 0, bin = 0; i < times.length; bin++) {
      const from = i;
      const end = bin + 1 < asked.length ? edges[bin + 1]! : Infinity;
      while (i < times.length && times[i]! < end) i++;
      asked[bin] = Math.max(asked[bin]!, (i - from) * need);
    }
  }
  return { edges, room: asked };
}

/** The elastic scale over bins: as `elasticScale`, with the room of each bin spread evenly over it. */
export function binnedScale(bins: Bins, options: Partial<ElasticOptions> = {}): ElasticScale {
  const { pxPerMs, foldFromMs, foldHeight, longest, roomShare } = { ...elasticDefaults, ...options };
  const tops = [0];
  const folds: Fold[] = [];
  for (let i = 0; i < bins.room.length; i++) {
    const length = bins.edges[i + 1]! - bins.edges[i]!;
    const natural = Math.min(length * pxPerMs, longest);
    const asked = bins.room[i]! * roomShare;
    const top = tops.at(-1)!;
    if (length >= foldFromMs && natural > foldHeight && asked <= foldHeight) {
      folds.push({ from: bins.edges[i]!, until: bins.edges[i + 1]!, top: top + asked, height: foldHeight });
      tops.push(top + asked + foldHeight);
    } else tops.push(top + Math.max(natural, asked));
  }
  return scaleThrough(bins.edges, tops, tops.at(-1)! + 40, folds);
}

/** How many of a sorted list of times lie in [from, until). */
export function countBetween(times: readonly number[] | undefined, from: number, until: number): number {
  return times ? Math.max(0, lowerBound(times, until) - lowerBound(times, from)) : 0;
}

/** Index of the first time that is not before `at`. */
export function lowerBound(times: readonly number[], at: number): number {
  let low = 0;
  let high = times.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (times[middle]! < at) low = middle + 1;
    else high = middle;
  }
  return low;
}

/** One row of a summary: how many events of a lane begin in a strip of the page. */
export interface Density {
  top: number;
  height: number;
  count: number;
}

/** How much of a lane lies where, in strips of the page. */
export function densityOf(
  times: readonly number[],
  scale: ElasticScale,
  from: number,
  until: number,
  strip = 6,
): Density[] {
  const out: Density[] = [];
  let index = lowerBound(times, scale.at(from));
  for (let top = from; top < until && index < times.length; top += strip) {
    const end = lowerBound(times, scale.at(top + strip));
    if (end > index) out.push({ top, height: strip, count: end - index });
    index = Math.max(index, end);
  }
  return out;
}
