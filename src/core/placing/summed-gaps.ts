import type { Place } from './loose.ts';
import type { Span } from './zones.ts';

/** How much later than added up a test began, and how sure that is, ms. */
export interface Shift {
  by: number;
  within: number;
}

/** Most that runners spend between two tests, ms, and how finely it is looked for. */
const mostGap = 2000;
const grain = 50;
/** What lies between two tests is rather short: so much costs one in log-odds, ms. */
const usualGap = 1200;
/** Fewer files than this say nothing of what lies between tests; longer reports are left as they are. */
const fewestFiles = 3;
const mostTests = 250;
const mostSpans = 1500;
/** All gaps together are looked for up to so many grains. */
const mostGrains = 2000;
/** What a file that lies in a test as a whole says for it, and one that is cut in two by its end against it. */
const says = { inside: 4, moment: 2, cut: -8 } as const;

/**
 * Where each test of a report really began that only gives the beginning of the first: what its runner spent between tests
 * is missing in the sums. Every way to set them apart is weighed by how many files then lie in one test as a whole (forward
 * and backward over the tests, as for a hidden Markov chain), and their mean is taken.
 * @param spans of files that tell their times
 * @param places of one report, in its order, with their starts added up
 * @param cutMs what the report cut off its first time
 * @returns nothing where the files do not tell
 */
export function spacing(
  spans: readonly Span[],
  places: readonly Pick<Place, 'from' | 'until'>[],
  cutMs: number,
): Shift[] | undefined {
  if (places.length < 2 || places.length > mostTests || spans.length < fewestFiles) return undefined;
  const near = spans
    .slice(0, mostSpans)
    .filter(
      ({ from, until }) =>
        until >= places[0]!.from && from <= places.at(-1)!.until + places.length * mostGap && until - from < 3_600_000,
    );
  if (near.length < fewestFiles) return undefined;
  const steps = mostGap / grain;
  const first = Math.floor(cutMs / grain);
  const most = Math.min(first + (places.length - 1) * steps, mostGrains);
  // Against the best of each test, so that many files in one do not grow beyond what numbers hold.
  const fits = places.map((place) => {
    const reached = near.filter(({ from, until }) => until >= place.from && from <= place.until + most * grain);
    const scores = Float64Array.from({ length: most + 1 }, (_, c) => scoreOf(place, c * grain, reached));
    const best = largest(scores);
    return scores.map((score) => Math.exp(score - best));
  });
  const gapCost = Float64Array.from({ length: steps + 1 }, (_, step) => Math.exp((-step * grain) / usualGap));
  // In sums of weights, scaled at each test so that they stay within what numbers hold.
  const forward: Float64Array[] = [];
  places.forEach((_, i) => {
    const row = new Float64Array(most + 1);
    for (let c = 0; c <= most; c++) {
      let sum = 0;
      if (i === 0) sum = c <= first ? 1 : 0;
      else for (let step = 0; step <= steps && step <= c; step++) sum += forward[i - 1]![c - step]! * gapCost[step]!;
      row[c] = sum * fits[i]![c]!;
    }
    forward.push(scaled(row));
  });
  const backward: Float64Array[] = new Array<Float64Array>(places.length);
  backward[places.length - 1] = new Float64Array(most + 1).fill(1);
  for (let i = places.length - 2; i >= 0; i--) {
    const row = new Float64Array(most + 1);
    for (let c = 0; c <= most; c++) {
      let sum = 0;
      for (let step = 0; step <= steps && c + step <= most; step++)
        sum += backward[i + 1]![c + step]! * gapCost[step]! * fits[i + 1]![c + step]!;
      row[c] = sum;
    }
    backward[i] = scaled(row);
  }
  const shifts = places.map((_, i): Shift => {
    let [all, sum, square] = [0, 0, 0];
    for (let c = 0; c <= most; c++) {
      const weight = forward[i]![c]! * backward[i]![c]!;
      all += weight;
      sum += weight * c;
      square += weight * c * c;
    }
    const mean = sum / all;
    return { by: mean * grain, within: grain + grain * Math.sqrt(Math.max(0, square / all - mean * mean)) };
  });
  // Files that fit no way at all tell nothing.
  return shifts.every(({ by }) => Number.isFinite(by)) ? shifts : undefined;
}

function scoreOf(place: Pick<Place, 'from' | 'until'>, shift: number, spans: readonly Span[]): number {
  const from = place.from + shift;
  const until = place.until + shift;
  let score = 0;
  for (const span of spans) {
    if (span.until < from || span.from > until) continue;
    if (span.until - span.from < 1) score += says.moment;
    else score += span.from >= from && span.until <= until ? says.inside : says.cut / 2;
  }
  return score;
}

const largest = (row: Float64Array): number => row.reduce((most, one) => Math.max(most, one), -Infinity);

function scaled(row: Float64Array): Float64Array {
  const most = largest(row);
  return most > 0 ? row.map((one) => one / most) : row;
}
