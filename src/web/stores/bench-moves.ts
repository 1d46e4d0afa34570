import { lowerBound, type StopLane } from '../../core/scaffold/crowd.ts';
import { useBench } from './bench.ts';

/** Speeds of play, as parts of life: 1/2 … 1/50. */
export const speeds = [2, 5, 10, 20, 50] as const;

/** Times a hair apart are one moment. */
const hair = 0.001;

/** How the level moves: by step, by the finest recorded thing, to what is near, and by itself. */
export function useMoves() {
  const bench = useBench();

  /** Sets the level to the step `by` planks further on or back. */
  function step(by: 1 | -1): void {
    const here = bench.level;
    const planks = bench.poles.planks;
    const next = nextOf(
      planks.map((plank) => plank.at),
      here,
      by,
    );
    // Of a large attempt only the planks near the level are here; beyond them the times of all steps tell.
    if (next !== undefined && bench.known(Math.min(here, next), Math.max(here, next))) bench.level = next;
    else {
      const far = nextOf(bench.stops.step ?? [], here, by) ?? next;
      if (far !== undefined) bench.level = far;
    }
  }

  /** Moves by the finest recorded thing: a picture, a poll, a change of a lifeline, a frame of the video. */
  function fine(by: 1 | -1): void {
    const lanes: StopLane[] = ['screen', 'poll', 'element'];
    const times = lanes.flatMap((lane) => nextOf(bench.stops[lane] ?? [], bench.level, by) ?? []);
    const frame = nextOf(bench.filmTimes, bench.level, by);
    if (frame !== undefined) times.push(frame);
    if (times.length) bench.level = by > 0 ? Math.min(...times) : Math.max(...times);
  }

  /** The time of something recorded no further than `within` ms from a time; else the time itself. */
  function near(at: number, within: number): number {
    let best = at;
    let off = within;
    for (const times of Object.values(bench.stops)) {
      const i = lowerBound(times, at);
      for (const one of [times[i - 1], times[i]])
        if (one !== undefined && Math.abs(one - at) < off) [best, off] = [one, Math.abs(one - at)];
    }
    return best;
  }

  let timer = 0;
  let last = 0;
  /** Lets the level move on by itself, `slower` times slower than life; silences that are folded take a moment only. */
  function play(slower: number): void {
    stop();
    bench.time.playing = true;
    if (bench.level >= bench.poles.until) bench.level = bench.range?.from ?? 0;
    last = performance.now();
    const onFrame = (now: number): void => {
      const passed = Math.min(100, now - last);
      last = now;
      const fold = bench.time.scale.folds.find((one) => one.from <= bench.level && one.until > bench.level);
      const on = fold ? Math.max(passed / slower, ((fold.until - fold.from) * passed) / foldTakesMs) : passed / slower;
      const end = bench.range?.until ?? bench.poles.until;
      bench.level = Math.min(end, bench.level + on);
      if (bench.level >= end) return stop();
      timer = requestAnimationFrame(onFrame);
    };
    timer = requestAnimationFrame(onFrame);
  }

  function stop(): void {
    cancelAnimationFrame(timer);
    bench.time.playing = false;
  }

  return { step, fine, near, play, stop };
}

/** Playing goes over a fold in this time. */
const foldTakesMs = 500;

/** The first of some sorted times after a moment, or the last before it. */
export function nextOf(times: readonly number[], at: number, by: 1 | -1): number | undefined {
  if (by > 0) return times[lowerBound(times, at + hair)];
  return times[lowerBound(times, at - hair) - 1];
}
