import { difference, type Thumb } from './thumb.ts';

/** A picture at a time: of a video its own clock, of a screenshot the attempt's. */
export interface Shot {
  at: number;
  thumb: Thumb;
}

export interface Alignment {
  /** What to add to a time of the video to get the attempt's time, ms. */
  offset: number;
  /** Half the width of the range of offsets that fit equally well, ms. */
  within: number;
  /** Screenshots that the video shows at their time, of all. */
  matched: number;
  of: number;
  /** False when the pictures do not tell, or tell too little: then the offset is a guess and said so. */
  sure: boolean;
}

/** Thumbs nearer than this show the same: the scatter of a lossy video around the true picture. */
const sameBelow = 12;
/** Frames that differ by less are the same picture, coded anew. */
const newScene = 1.5;
/** A screenshot that fits nowhere costs this much and no more, so that one wrong picture decides nothing. */
const worstCost = 24;
/** A screenshot takes some time; when in it the picture was taken is known about this well, ms. */
const shotWithinMs = 30;
/** Costs that differ by this much tell offsets apart by a factor of e. */
const tellingCost = 4;
/** Offsets tried: every 4 ms, or fewer for very long videos. */
const finest = 4;
const mostTried = 60_000;
/** An offset told as sure must be known within this. */
export const sureWithinMs = 60;

/**
 * Finds when a video began by its pictures: the offset at which the frames on show at the screenshots'
 * times look most like the screenshots. Every offset is weighted by how well it fits; their middle is the
 * answer, and their spread tells how sure it is.
 *
 * @param frames of the video, by ascending time; each stays on show until the next
 * @param shots screenshots at known times
 * @param durationMs of the video; outside it, it shows nothing
 * @returns undefined without frames or screenshots
 */
export function alignVideo(frames: readonly Shot[], shots: readonly Shot[], durationMs: number): Alignment | undefined {
  if (!frames.length || !shots.length) return undefined;
  // Runs of frames that look alike are one: only where the picture changes does time show.
  const scenes: { from: number; until: number; thumb: Thumb }[] = [];
  for (const { at, thumb } of frames) {
    const last = scenes.at(-1);
    if (last && difference(last.thumb, thumb) < newScene) last.until = at;
    else {
      if (last) last.until = at;
      scenes.push({ from: at, until: at, thumb });
    }
  }
  scenes.at(-1)!.until = Math.max(durationMs, scenes.at(-1)!.from);
  scenes[0]!.from = Math.min(0, scenes[0]!.from);
  const costs = shots.map((shot) => scenes.map((scene) => Math.min(difference(shot.thumb, scene.thumb), worstCost)));
  const sceneAt = (time: number): number => {
    if (time < scenes[0]!.from || time > scenes.at(-1)!.until) return -1;
    let low = 0;
    let high = scenes.length - 1;
    while (low < high) {
      const middle = (low + high + 1) >> 1;
      if (scenes[middle]!.from <= time) low = middle;
      else high = middle - 1;
    }
    return low;
  };
  const from = Math.min(...shots.map(({ at }) => at)) - scenes.at(-1)!.until;
  const to = Math.max(...shots.map(({ at }) => at)) - scenes[0]!.from;
  const step = Math.max(finest, (to - from) / mostTried);
  const count = Math.floor((to - from) / step) + 1;
  // What each screenshot costs at each offset, added up, then blurred by how exactly its time is known.
  const sharp = new Float64Array(count);
  for (let i = 0; i < count; i++) {
    const offset = from + i * step;
    for (let s = 0; s < shots.length; s++) {
      const scene = sceneAt(shots[s]!.at - offset);
      sharp[i]! += scene < 0 ? worstCost : costs[s]![scene]!;
    }
  }
  const reach = Math.max(1, Math.round(shotWithinMs / step));
  const cost = blurred(blurred(sharp, reach), reach);
  let least = Infinity;
  for (const one of cost) if (one < least) least = one;
  // Offsets by how likely they are; their middle is the answer, their spread how sure it is.
  let [all, sum, square] = [0, 0, 0];
  for (let i = 0; i < count; i++) {
    const weight = Math.exp((least - cost[i]!) / tellingCost);
    all += weight;
    sum += weight * (from + i * step);
    square += weight * (from + i * step) ** 2;
  }
  const offset = sum / all;
  const within = Math.max(finest, 1.96 * Math.sqrt(Math.max(0, square / all - offset * offset)));
  const matched = shots.filter((shot, s) => {
    const scene = sceneAt(shot.at - offset);
    return scene >= 0 && costs[s]![scene]! < sameBelow;
  }).length;
  return {
    offset,
    within,
    matched,
    of: shots.length,
    sure: within <= sureWithinMs * 1.2 && matched >= Math.max(2, 0.6 * shots.length) && scenes.length > 1,
  };
}

/** A running mean over 2·reach + 1 places; twice is a triangle. */
function blurred(values: Float64Array, reach: number): Float64Array {
  const out = new Float64Array(values.length);
  let sum = 0;
  let held = 0;
  for (let i = -reach; i < values.length + reach; i++) {
    if (i + reach < values.length && i + reach >= 0) {
      sum += values[i + reach]!;
      held++;
    }
    if (i - reach - 1 >= 0) {
      sum -= values[i - reach - 1]!;
      held--;
    }
    if (i >= 0 && i < values.length) out[i] = sum / Math.max(1, held);
  }
  return out;
}
