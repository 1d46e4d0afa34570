import { unknownHabit, type Habit } from './habits.ts';
import { hullOf } from './zones.ts';
import type { Loose, Place, ToldSpan } from './loose.ts';

/** What a file's time says of an attempt: log-odds against a time at random around the run. */
export interface TimeFit {
  weight: number;
  /** In words: asked of the few that matter. */
  reason: () => string;
}

const worst = -12;
/** What only says when it was last written may have been copied since: it speaks more softly. */
const soft = { worst: -2, best: 4 } as const;
/** The least time around a run in which a file that belongs to nobody may have come about. */
const leastAround = 2 * 3_600_000;
/** A file goes on a little after its attempt, ms. */
const late = { lasting: 700, moment: 1500 } as const;
/** It begins a little early, by a clock that is not quite the same, ms. */
const early = 300;
/** So much time beyond an attempt costs one in log-odds. */
const beyondMs = 400;

const seconds = (ms: number): string => `${(ms / 1000).toFixed(1)} s`;

/** Log-density of a spread with heavy tails (Student's t with 3 degrees of freedom), 0 at the middle. */
const tail = (z: number): number => -2 * Math.log(1 + (z * z) / 3);

/** What a delivery as a whole says of its files' times. */
export interface Around {
  /** The time around the run that “belongs to nobody” is spread over, ms. */
  aroundMs: number;
  /** Where there are more pictures than tests failed, they are of steps. */
  pictures: 'of failures' | 'of steps';
}

/** More pictures than failures by this factor are of steps. */
const ofSteps = 1.3;

export function around(files: readonly Loose[], places: readonly Place[]): Around {
  const { from, until } = hullOf(places.filter(({ timed }) => timed));
  const pictures = files.filter(({ kind, shown }) => kind === 'moment' && shown).length;
  const failed = places.filter((place) => place.failed).length;
  return {
    aroundMs: Math.max(leastAround, 4 * (until - from)),
    pictures: pictures > ofSteps * failed ? 'of steps' : 'of failures',
  };
}

/** How well a file's time fits an attempt's: what it tells may be meant in several ways, the best counts. */
export function timeFit(file: Loose, place: Place, habit: Habit, run: Around): TimeFit | undefined {
  if (!place.timed) return undefined;
  const fits = (file.spans ?? []).map((span) => {
    const fit =
      file.kind === 'moment' ? momentFit(span, place, run) : lastingFit(file, span, place, habit, run.aroundMs);
    const [least, most] = span.firm ? [worst, 40] : [soft.worst, soft.best];
    return { ...fit, weight: Math.min(most, Math.max(least, fit.weight)) };
  });
  if (fits.length) {
    const best = fits.reduce((one, other) => (other.weight > one.weight ? other : one));
    return { ...best, weight: best.weight - Math.log(fits.length) };
  }
  if (file.durationMs === undefined) return undefined;
  const length = place.until - place.from;
  // A recorder may come late and go early; it seldom outlasts its attempt.
  const shorter = file.durationMs < length ? -0.3 * Math.log(length / Math.max(500, file.durationMs)) : worst;
  return {
    weight: Math.max(shorter, 1 + tail((file.durationMs - length) / unknownHabit.end.spread)),
    reason: () => `it lasts ${seconds(file.durationMs!)}, the attempt ${seconds(length)}`,
  };
}

function momentFit(span: ToldSpan, place: Place, { aroundMs, pictures }: Around): TimeFit {
  const { from, until } = place;
  const length = until - from;
  const doubt = (place.slack ?? 0) + span.resolutionMs;
  // Cut-off times are earlier than what they tell of; the middle is meant.
  const at = span.from + (span.resolutionMs > 1 ? span.resolutionMs / 2 : 0);
  const density = Math.log(aroundMs / Math.max(1000, length));
  const reason = (): string => (at < from ? 'taken as it began' : `taken ${seconds(at - from)} after its start`);
  if (at < from) return { weight: density - 1 - Math.max(0, from - at - early / 3 - doubt) / (beyondMs / 2), reason };
  if (at > until) {
    const beyond = Math.max(0, at - until - doubt - (place.failed ? late.moment : late.lasting / 2));
    // What shows a failure is written right after it. Pictures of steps are seldom taken so late.
    if (pictures === 'of failures' && place.failed) return { weight: density - 0.2 - beyond / beyondMs, reason };
    return { weight: density - 1.5 - Math.max(beyond / beyondMs, (at - until - doubt) / (beyondMs / 2)), reason };
  }
  const atEnd = pictures === 'of failures' && place.failed && at > from + length * 0.7 ? 0.5 : 0;
  // In its very first moment a page shows nothing worth a picture.
  const atStart = at - from < 250 - doubt ? -0.7 : 0;
  return { weight: density + atEnd + atStart, reason };
}

/** A clock that is wrong by up to so much, ms, is met now and then. */
const mostSkewMs = 100_000;
const skewedShare = 0.05;
/** What is beside an attempt may be of it, by a wrong clock: anywhere around, as seldom as such clocks are. */
const skewed = (aroundMs: number): number => Math.log((skewedShare * aroundMs) / (2 * mostSkewMs));

function lastingFit(file: Loose, span: ToldSpan, place: Place, habit: Habit, aroundMs: number): TimeFit {
  const start = span.from - place.from;
  const end = span.until - place.until;
  const length = place.until - place.from;
  const lasts = span.until - span.from;
  const slack = Math.hypot(place.slack ?? 0, span.resolutionMs > 1 ? span.resolutionMs : 0);
  const edges =
    Math.log(aroundMs / 1500) +
    2.5 +
    (slack
      ? tail(start / Math.hypot(habit.start.spread, slack)) +
        tail((end - start) / Math.hypot(habit.end.spread, slack / 2))
      : tail((start - habit.start.middle) / habit.start.spread) + tail((end - habit.end.middle) / habit.end.spread));
  const outside = Math.max(0, -start - early - slack) + Math.max(0, end - late.lasting - slack);
  const inside = Math.log(aroundMs / Math.max(1000, length)) - outside / beyondMs;
  const beyond = Math.max(0, -start) + Math.max(0, end);
  const within = Math.max(0, start - slack) + Math.max(0, -end - slack);
  const covering = Math.log(aroundMs / 20_000) - 1.5 * Math.log1p(beyond / 5000) - within / beyondMs;
  const weight = Math.max(edges, inside, covering, file.ownClock && outside < mostSkewMs ? skewed(aroundMs) : worst);
  const how = (): string =>
    weight === inside && weight > edges
      ? `it covers ${seconds(lasts)} of its ${seconds(length)}, from ${seconds(Math.max(0, start))} on`
      : `it begins ${seconds(Math.abs(start))} ${start < 0 ? 'before' : 'after'} it and lasts ${seconds(lasts)} against ${seconds(length)}`;
  return { weight, reason: how };
}
