import type { SeriesView } from './types.ts';

/** A series in one sentence: what a search found, or how often the drill failed. */
export function sentenceOf(series: SeriesView, title: string): string {
  const running = series.state === 'running' || series.state === 'waiting';
  const [finding] = series.findings;
  // Its dose and the rest stand below.
  if (finding) return finding.words.split(';')[0]!.replace(/\.?$/, '');
  if (series.done === 0) return series.state === 'running' ? `${title}: the first trial is under way` : title;
  if (series.search)
    return running
      ? `Looking for what brings it: ${series.done} trials so far`
      : `Nothing that was tried in ${series.done} trials brings it on demand`;
  const others = series.otherFailures ? `, ${series.otherFailures} another way` : '';
  return `${series.failed} of ${series.done} trials fail${series.familyId ? ' the same way' : ''}${others}`;
}

/** How far a series is. */
export function progressOf(series: SeriesView, wanted: number): string {
  const played = series.trials.length;
  switch (series.state) {
    case 'waiting':
      return 'waits for another series to end';
    case 'running':
      return series.search ? `trial ${Math.max(1, played)}` : `trial ${Math.min(played || 1, wanted)} of ${wanted}`;
    case 'done':
      return series.search ? `${played} trials` : `all ${wanted} trials played`;
    case 'stopped':
      return `stopped after ${played}${series.search ? '' : ` of ${wanted}`}`;
    case 'failed':
      return series.problem ?? 'failed';
  }
}
