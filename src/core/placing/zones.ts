/** What is asked about times that name no zone: how far east of UTC the clock stood that wrote them. */

/** A span of time, epoch ms. */
export interface Span {
  from: number;
  until: number;
}

/** A clock whose zone is not told: what it wrote, read as if it were UTC. */
export interface LocalClock {
  spans: readonly Span[];
  /** It writes times of day only: any day may be meant. */
  dayless?: boolean;
  /** Moments of it that belong to known spans: a line that names a test, a request that a recording saw too. */
  anchors?: readonly { at: number; span: Span }[];
}

/** What else is known of zones in the delivery, minutes east of UTC. */
export interface ZoneHints {
  /** Of the report. */
  report?: number | undefined;
  /** Written in other files beside it, or found for them. */
  others?: readonly number[];
}

export interface ZoneGuess {
  /** Minutes east of UTC. */
  minutes: number;
  /** 0 to 1. */
  probability: number;
  /** What else it may be, likeliest first, above one in fifty. */
  others: { minutes: number; probability: number }[];
}

/** Zones are used from this probability on; below it the times count as not known. */
export const sureOfZone = 0.9;

/** Zones that clocks are set to somewhere on earth, and how many there are for one of the whole hours. */
export const zonesOnEarth: readonly (readonly [minutes: number, share: number])[] = [
  ...Array.from({ length: 27 }, (_, i) => [(i - 12) * 60, 1] as const),
  ...[330].map((one) => [one, 0.8] as const),
  ...[-210, -570, -150, 210, 270, 390, 570, 630].map((one) => [one, 0.3] as const),
  ...[345, 525, 765, 825].map((one) => [one, 0.15] as const),
];

const share = { report: 0.55, utc: 0.2, others: 0.15, anywhere: 0.1 } as const;
/** Clocks are wrong by seconds now and then, and by a minute and a half rarely. */
const skews = [
  { by: 1500, likely: 1 },
  { by: 10_000, likely: 0.6 },
  { by: 95_000, likely: 0.3 },
] as const;
/** So little is it to be expected that a file has nothing to do with the run it was left beside. */
const beside = 0.0001;
const dayMs = 86_400_000;
/** Of a span that fits, at least so much does. */
const leastFit = 0.2;

/**
 * The zone that brings what a clock wrote to where the tests ran. Every zone on earth is weighed by how usual it is, by what
 * the report and the other files say, and by how much of what was written then falls into the time of the tests.
 * @param windows when the tests ran
 * @returns nothing where there is no time to compare with
 */
export function guessZone(clock: LocalClock, windows: readonly Span[], hints: ZoneHints = {}): ZoneGuess | undefined {
  if (!clock.spans.length || !windows.length) return undefined;
  const hull = hullOf(windows);
  const prior = priors(hints);
  const weighed = [...prior].map(([minutes, before]) => {
    const days = clock.dayless ? [-1, 0, 1] : [0];
    const best = Math.max(...days.map((day) => likelihood(clock, hull, minutes * 60_000 + day * dayMs)));
    return { minutes, weight: Math.log(before) + best };
  });
  const most = Math.max(...weighed.map(({ weight }) => weight));
  const sum = weighed.reduce((total, { weight }) => total + Math.exp(weight - most), 0);
  const all = weighed
    .map(({ minutes, weight }) => ({ minutes, probability: Math.exp(weight - most) / sum }))
    .sort((a, b) => b.probability - a.probability);
  const [first, ...rest] = all as [ZoneGuess, ...ZoneGuess[]];
  // A clock none of whose times fits says nothing of its zone, however usual one is; strays among others do no harm.
  const days = clock.dayless ? [-1, 0, 1] : [0];
  const fits = clock.spans.some(({ from, until }) =>
    days.some((day) => {
      const ahead = first.minutes * 60_000 + day * dayMs;
      return fit({ from: from - ahead, until: until - ahead }, hull) > leastFit;
    }),
  );
  return {
    minutes: first.minutes,
    probability: fits ? first.probability : Math.min(first.probability, 0.5),
    others: rest.filter(({ probability }) => probability > 0.02).slice(0, 4),
  };
}

/** From the beginning of the first to the end of the last. */
export const hullOf = (spans: readonly Span[]): Span => ({
  from: spans.reduce((least, one) => Math.min(least, one.from), Infinity),
  until: spans.reduce((most, one) => Math.max(most, one.until), -Infinity),
});

function priors({ report, others = [] }: ZoneHints): Map<number, number> {
  const whole = zonesOnEarth.reduce((sum, [, usual]) => sum + usual, 0);
  const out = new Map(zonesOnEarth.map(([minutes, usual]) => [minutes, (share.anywhere * usual) / whole]));
  const add = (minutes: number, by: number): void => void out.set(minutes, (out.get(minutes) ?? 0) + by);
  if (report !== undefined) add(report, share.report);
  add(0, share.utc);
  const told = [...new Set(others)];
  for (const minutes of told) add(minutes, share.others / told.length);
  return out;
}

/** Log-likelihood of what the clock wrote, were it so far ahead of UTC. */
function likelihood({ spans, anchors = [] }: LocalClock, hull: Span, ahead: number): number {
  let sum = 0;
  // Files of one clock say the same thing again and again.
  const weight = 1 / Math.sqrt(spans.length);
  for (const { from, until } of spans)
    sum += weight * Math.log(Math.max(beside, fit({ from: from - ahead, until: until - ahead }, hull)));
  const part = anchors.length ? 6 / Math.max(6, anchors.length) : 0;
  for (const { at, span } of anchors)
    sum += part * Math.log(Math.max(0.05, fit({ from: at - ahead, until: at - ahead }, span)));
  return sum;
}

/** How much of the shorter lies in the longer, 0 to 1, allowing for clocks that are a little wrong. */
function fit(span: Span, hull: Span): number {
  let best = 0;
  const least = Math.max(1, Math.min(span.until - span.from, hull.until - hull.from));
  for (const { by, likely } of skews) {
    const both = Math.min(span.until, hull.until + by) - Math.max(span.from, hull.from - by);
    best = Math.max(best, likely * Math.max(0, Math.min(1, (both + 1) / least)));
  }
  return best;
}

/** A zone as it is written: `UTC+05:30`. */
export function zoneWords(minutes: number): string {
  if (minutes === 0) return 'UTC';
  const size = Math.abs(minutes);
  const two = (part: number): string => String(Math.floor(part)).padStart(2, '0');
  return `UTC${minutes < 0 ? '−' : '+'}${two(size / 60)}:${two(size % 60)}`;
}
