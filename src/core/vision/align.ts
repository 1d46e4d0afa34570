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
const sameBelow = 6;
/** A screenshot that fits nowhere costs this much and no more, so that one wrong picture decides nothing. */
const worstCost = 24;
/** An offset told as sure must be known within this. */
export const sureWithinMs = 60;

/**
 * Finds when a video began by its pictures: the offset at which the frames on show at the screenshots'
 * times look most like the screenshots. Offsets that fit as well as the best make the uncertainty.
 * The cost is piecewise constant between frame changes, so only the offsets where it can change are tried.
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
    if (last && difference(last.thumb, thumb) < sameBelow / 4) last.until = at;
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
  const edges = new Set<number>();
  for (const shot of shots) {
    for (const scene of scenes) edges.add(shot.at - scene.from);
    edges.add(shot.at - scenes.at(-1)!.until);
  }
  const bounds = [...edges].sort((a, b) => a - b);
  let best = { cost: Infinity, ranges: [] as { from: number; to: number }[] };
  // Between two bounds every offset shows the same scenes at the same screenshots.
  const slack = 0.35 * shots.length;
  const tried: { from: number; to: number; cost: number }[] = [];
  for (let i = 0; i + 1 < bounds.length; i++) {
    const [from, to] = [bounds[i]!, bounds[i + 1]!];
    const offset = (from + to) / 2;
    let cost = 0;
    for (let s = 0; s < shots.length; s++) {
      const scene = sceneAt(shots[s]!.at - offset);
      cost += scene < 0 ? worstCost : costs[s]![scene]!;
    }
    tried.push({ from, to, cost });
    if (cost < best.cost) best = { cost, ranges: [] };
  }
  if (!tried.length) return undefined;
  const good = tried.filter(({ cost }) => cost <= best.cost + slack);
  const winner = tried.find(({ cost }) => cost === best.cost)!;
  // The range around the best one; others that fit as well elsewhere make the answer ambiguous.
  let { from, to } = winner;
  for (const one of good) if (one.from <= to + 1e-6 && one.to > to) to = one.to;
  for (const one of [...good].reverse()) if (one.to >= from - 1e-6 && one.from < from) from = one.from;
  const elsewhere = good.some((one) => one.to < from - sureWithinMs || one.from > to + sureWithinMs);
  const offset = (from + to) / 2;
  const matched = shots.filter((shot, s) => {
    const scene = sceneAt(shot.at - offset);
    return scene >= 0 && costs[s]![scene]! < sameBelow;
  }).length;
  const within = (to - from) / 2;
  return {
    offset,
    within,
    matched,
    of: shots.length,
    sure: !elsewhere && within <= sureWithinMs && matched >= Math.max(2, 0.6 * shots.length) && scenes.length > 1,
  };
}
