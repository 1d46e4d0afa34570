/**
 * The elastic time of the scaffold: a monotone map from ms to pixels down the page. Quiet time is
 * folded to a fixed height, busy time is spread so that every label in it has room.
 */
export interface ElasticMark {
  at: number;
  /** Pixels this mark needs below it before the next mark of the same lane. */
  needs: number;
  lane: string;
}

export interface Fold {
  from: number;
  until: number;
  top: number;
  height: number;
}

export interface ElasticScale {
  height: number;
  folds: Fold[];
  /** Pixel of a time. */
  y(at: number): number;
  /** Time at a pixel. */
  at(y: number): number;
}

export interface ElasticOptions {
  pxPerMs: number;
  /** Silences from this length on are folded; Infinity folds nothing. */
  foldFromMs: number;
  foldHeight: number;
  /** Longest stretch of one unfolded silence, pixels. */
  longest: number;
  /** How much of the room that labels ask for is given to them: less than 1 when seen from further away. */
  roomShare: number;
}

export const elasticDefaults: ElasticOptions = {
  pxPerMs: 0.3,
  foldFromMs: 260,
  foldHeight: 40,
  longest: 2400,
  roomShare: 1,
};

/**
 * Builds the scale by one pass in time order: each mark is placed below the one before by natural
 * time (or a fold), and pushed further down where its own lane still needs the room.
 * @param marks the times something is drawn at; any order
 * @param until end of the attempt in ms; the scale covers 0…until
 * @throws RangeError for times that are not finite
 */
export function elasticScale(
  marks: readonly ElasticMark[],
  until: number,
  options: Partial<ElasticOptions> = {},
): ElasticScale {
  const { pxPerMs, foldFromMs, foldHeight, longest, roomShare } = { ...elasticDefaults, ...options };
  const sorted = [...marks, { at: 0, needs: 0, lane: '' }, { at: until, needs: 0, lane: '' }].sort(
    (a, b) => a.at - b.at,
  );
  const times: number[] = [];
  const tops: number[] = [];
  const folds: Fold[] = [];
  const laneFloor = new Map<string, number>();
  for (let i = 0; i < sorted.length;) {
    const at = sorted[i]!.at;
    if (!Number.isFinite(at)) throw new RangeError(`a mark's time must be finite, got ${at}`);
    const same: ElasticMark[] = [];
    while (i < sorted.length && sorted[i]!.at === at) same.push(sorted[i++]!);
    let top = 0;
    if (times.length) {
      const before = times.at(-1)!;
      const silence = at - before;
      const natural = Math.min(silence * pxPerMs, longest);
      const folded = silence >= foldFromMs && natural > foldHeight;
      top = tops.at(-1)! + (folded ? foldHeight : natural);
      for (const mark of same) top = Math.max(top, laneFloor.get(mark.lane) ?? 0);
      // A fold lies below every label that began before it, so that it hides none and none hides its own.
      if (folded) for (const floor of laneFloor.values()) top = Math.max(top, floor + foldHeight);
      if (folded) folds.push({ from: before, until: at, top: top - foldHeight, height: foldHeight });
    }
    for (const mark of same)
      laneFloor.set(mark.lane, Math.max(laneFloor.get(mark.lane) ?? 0, top + mark.needs * roomShare));
    times.push(at);
    tops.push(top);
  }
  const height = Math.max(tops.at(-1)!, ...laneFloor.values());
  return scaleThrough(times, tops, height, folds);
}

/** The scale through known places: `times` and `tops` rise together. */
export function scaleThrough(
  times: readonly number[],
  tops: readonly number[],
  height: number,
  folds: Fold[] = [],
): ElasticScale {
  return { height, folds, y: (at) => between(times, tops, at), at: (y) => between(tops, times, y) };
}

/** True time: as many pixels to every millisecond, nothing folded and nothing spread. */
export function trueScale(until: number, pxPerMs: number): ElasticScale {
  const end = Math.max(1, until);
  return scaleThrough([0, end], [0, end * pxPerMs], end * pxPerMs + 40);
}

/** Beyond so many marks an attempt fills any window; trying several scales would only cost. */
const fewMarks = 2000;

/** Pixels to a millisecond at which a short attempt fills `room` pixels; one that is longer anyway keeps the usual pace. */
export function paceFor(marks: readonly ElasticMark[], until: number, room: number): number {
  let low = elasticDefaults.pxPerMs;
  if (marks.length > fewMarks) return low;
  let high = low * 8;
  for (let i = 0; i < 7; i++) {
    const pxPerMs = i === 0 ? low : (low + high) / 2;
    const { height } = elasticScale(marks, until, { pxPerMs });
    if (height > room) high = pxPerMs;
    else low = pxPerMs;
    if (i === 0 && height > room) break;
  }
  return low;
}

/** Linear interpolation along a sorted polyline; beyond its ends the end values hold. */
function between(from: readonly number[], to: readonly number[], value: number): number {
  if (value <= from[0]!) return to[0]!;
  let low = 0;
  let high = from.length - 1;
  if (value >= from[high]!) return to[high]!;
  while (high - low > 1) {
    const middle = (low + high) >> 1;
    if (from[middle]! <= value) low = middle;
    else high = middle;
  }
  const span = from[high]! - from[low]!;
  return span === 0 ? to[low]! : to[low]! + ((value - from[low]!) / span) * (to[high]! - to[low]!);
}
