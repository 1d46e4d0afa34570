import { wilson, type Rate } from '../stats/wilson.ts';

/** What a stretch of a history came to: how many ran, how many of them failed in the end, how many passed only on retry. */
export interface Counts {
  ran: number;
  failed: number;
  flaky: number;
  /** Machine time of retries, ms. */
  retryMs: number;
}

/** One point of a chart: a day, or a commit. */
export interface Point extends Counts {
  /** Start of the day, or when the commit was first seen, epoch ms. */
  at: number;
  /** “2026-11-23”, or the commit. */
  label: string;
  failure: Rate;
  flake: Rate;
}

/** Something that is counted at a time and a commit. */
export interface Dated extends Counts {
  at: number;
  commit: string | null;
}

export const perPoint = ['day', 'commit'] as const;
export type PerPoint = (typeof perPoint)[number];

/** The UTC day of a time. */
export const dayOf = (at: number): string => new Date(at).toISOString().slice(0, 10);

/** What was counted, by day or by commit, in time order; what names no commit is left out of the latter. */
export function pointsOf(counted: Iterable<Dated>, per: PerPoint): Point[] {
  const points = new Map<string, Omit<Point, 'failure' | 'flake'>>();
  for (const { at, commit, ran, failed, flaky, retryMs } of counted) {
    const label = per === 'day' ? dayOf(at) : commit;
    if (!label) continue;
    const point = points.get(label);
    if (!point) {
      points.set(label, { at: per === 'day' ? Date.parse(label) : at, label, ran, failed, flaky, retryMs });
      continue;
    }
    point.ran += ran;
    point.failed += failed;
    point.flaky += flaky;
    point.retryMs += retryMs;
    if (per === 'commit') point.at = Math.min(point.at, at);
  }
  return [...points.values()]
    .sort((a, b) => a.at - b.at)
    .map((point) => ({ ...point, failure: wilson(point.failed, point.ran), flake: wilson(point.flaky, point.ran) }));
}
