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

/** Marks made ready for scales: sorted and counted once, however often the scale is then drawn anew. */
export interface ReadyMarks {
  /** The times, each once, ascending. */
  times: readonly number[];
  /** Where the marks of each time begin in `lane` and `needs`; one more than there are times. */
  first: Uint32Array;
  lane: Uint32Array;
  needs: Float64Array;
  lanes: number;
}

/**
 * @param marks the times something is drawn at; any order
 * @param until end of the attempt in ms; the scale covers 0…until
 * @throws RangeError for times that are not finite
 */
export function readyMarks(marks: readonly ElasticMark[], until: number): ReadyMarks {
  const sorted = [...marks, { at: 0, needs: 0, lane: '' }, { at: until, needs: 0, lane: '' }].sort(
    (a, b) => a.at - b.at,
  );
  const times: number[] = [];
  const first: number[] = [];
  const known = new Map<string, number>();
  const lane = new Uint32Array(sorted.length);
  const needs = new Float64Array(sorted.length);
  sorted.forEach((mark, i) => {
    if (!Number.isFinite(mark.at)) throw new RangeError(`a mark's time must be finite, got ${mark.at}`);
    if (i === 0 || mark.at !== times.at(-1)) {
      times.push(mark.at);
      first.push(i);
    }
    let number = known.get(mark.lane);
    if (number === undefined) known.set(mark.lane, (number = known.size));
    lane[i] = number;
    needs[i] = mark.needs;
  });
  return { times, first: Uint32Array.from([...first, sorted.length]), lane, needs, lanes: known.size };
}

/** The elastic scale of some marks; see `scaleOf`. @throws RangeError for times that are not finite */
export const elasticScale = (
  marks: readonly ElasticMark[],
  until: number,
  options: Partial<ElasticOptions> = {},
): ElasticScale => scaleOf(readyMarks(marks, until), options);

/**
 * Builds the scale by one pass in time order: each mark is placed below the one before by natural
 * time (or a fold), and pushed further down where its own lane still needs the room.
 */
export function scaleOf(marks: ReadyMarks, options: Partial<ElasticOptions> = {}): ElasticScale {
  const { pxPerMs, foldFromMs, foldHeight, longest, roomShare } = { ...elasticDefaults, ...options };
  const { times, first, lane, needs } = marks;
  const tops = new Array<number>(times.length);
  const folds: Fold[] = [];
  /** Where each lane is free again, and the lowest of these places. */
  const floors = new Float64Array(marks.lanes);
  let lowest = 0;
  for (let i = 0; i < times.length; i++) {
    let top = 0;
    if (i) {
      const silence = times[i]! - times[i - 1]!;
      const natural = Math.min(silence * pxPerMs, longest);
      const folded = silence >= foldFromMs && natural > foldHeight;
      top = tops[i - 1]! + (folded ? foldHeight : natural);
      for (let k = first[i]!; k < first[i + 1]!; k++) top = Math.max(top, floors[lane[k]!]!);
      // A fold lies below every label that began before it, so that it hides none and none hides its own.
      if (folded) {
        top = Math.max(top, lowest + foldHeight);
        folds.push({ from: times[i - 1]!, until: times[i]!, top: top - foldHeight, height: foldHeight });
      }
    }
    for (let k = first[i]!; k < first[i + 1]!; k++) {
      const floor = top + needs[k]! * roomShare;
      if (floor > floors[lane[k]!]!) floors[lane[k]!] = floor;
      if (floor > lowest) lowest = floor;
    }
    tops[i] = top;
  }
  return scaleThrough(times, tops, Math.max(tops.at(-1)!, lowest), folds);
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
export function paceFor(marks: ReadyMarks, room: number): number {
  let low = elasticDefaults.pxPerMs;
  if (marks.lane.length > fewMarks) return low;
  if (scaleOf(marks, { pxPerMs: low }).height > room) return low;
  let high = low * 8;
  for (let i = 0; i < 6; i++) {
    const pxPerMs = (low + high) / 2;
    if (scaleOf(marks, { pxPerMs }).height > room) high = pxPerMs;
    else low = pxPerMs;
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
