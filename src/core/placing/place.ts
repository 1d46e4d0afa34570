import type { Environment } from '../evidence/attempt.ts';
import { median } from '../stats/median.ts';
import { browserIn, sizeIn, Telling, tryIn, wordsOf } from './words.ts';

/** An attempt a file may belong to. Times are epoch ms. */
export interface Place {
  id: string;
  suite: string;
  title: string;
  number: number;
  environment: Pick<Environment, 'browser' | 'width' | 'height' | 'place'>;
  from: number;
  until: number;
  /** False when the report told no times: then times say nothing. */
  timed: boolean;
  /** How far its times may be off, ms: 0 for told ones, more for those added up from durations. */
  slack?: number;
  failed: boolean;
  /** Paths the report names for it. */
  attachments: readonly string[];
  /** Addresses its messages and logs speak of, without query. */
  addresses: readonly string[];
}

/** A file whose attempt is looked for. */
export interface Loose {
  id: string;
  path: string;
  /** `lasting` things (videos, HARs, traces) cover an attempt; a picture is a moment of it. */
  kind: 'lasting' | 'moment';
  /** What it covers, epoch ms, when it says so itself or its time of writing does. */
  from?: number;
  until?: number;
  durationMs?: number;
  width?: number;
  height?: number;
  addresses?: readonly string[];
}

export interface Match {
  place: string;
  /** Probability that it belongs there, 0 to 1, over all attempts and none. */
  score: number;
  reasons: string[];
  /** The report itself says so. */
  named: boolean;
}

/** What pictures say: how strongly a file's pictures are those of an attempt, as log-odds; 0 says nothing. */
export type Likeness = (file: string, place: string) => { weight: number; reason?: string };

/** Files are placed without asking from this probability on; the others wait for a person. */
export const placedFrom = 0.9;

interface Evidence {
  weight: number;
  reasons: string[];
  named: boolean;
}

const seconds = (ms: number): string => `${(ms / 1000).toFixed(1)} s`;

/**
 * Finds the attempt of each loose file. Every clue (named by the report, words in the path, browser,
 * try and size, time, addresses, pictures) adds log-odds; the sum over all attempts and "none of
 * them" gives a probability. An attempt has one video and one HAR of its own, so lasting files also
 * compete with each other: rows and columns are normalised in turn (Sinkhorn and Knopp, 1967).
 *
 * @returns for each file its matches above one in a hundred, best first
 */
export function placeFiles(
  files: readonly Loose[],
  places: readonly Place[],
  likeness: Likeness = () => ({ weight: 0 }),
): Map<string, Match[]> {
  const telling = new Telling(places.map((place) => `${place.suite} ${place.title}`));
  const titles = places.map((place) => ({ title: wordsOf(place.title), suite: wordsOf(place.suite) }));
  const found = new Map<string, Match[]>();
  for (const kind of ['lasting', 'moment'] as const) {
    const rows = files.filter((file) => file.kind === kind);
    const paths = rows.map((file) => new Set(wordsOf(file.path)));
    const groups = rows.map(groupOf);
    const habits = new Map<string, Habit>();
    const look = (): { shares: number[][]; evidence: Evidence[][] } => {
      const evidence = rows.map((file, r) =>
        places.map((place, p) =>
          weigh(file, paths[r]!, place, titles[p]!, telling, likeness, habits.get(groups[r]!) ?? unknownHabit),
        ),
      );
      const weights = evidence.map((row) => row.map(({ weight }) => Math.exp(Math.min(weight, 30))));
      return { shares: kind === 'lasting' ? competing(weights, groups) : weights.map(alone), evidence };
    };
    let seen = look();
    // How a recorder starts and stops shows in all its files together; knowing it, each is told apart better.
    for (let round = 0; kind === 'lasting' && round < 4; round++) {
      const learnt = learnHabits(rows, places, groups, seen.shares);
      if (!learnt.size) break;
      for (const [group, habit] of learnt) habits.set(group, habit);
      seen = look();
    }
    rows.forEach((file, r) => {
      const matches = places
        .map((place, p): Match => ({
          place: place.id,
          score: seen.shares[r]![p]!,
          reasons: seen.evidence[r]![p]!.reasons,
          named: seen.evidence[r]![p]!.named,
        }))
        .filter((match) => match.score > 0.01 && match.reasons.length > 0)
        .sort((x, y) => y.score - x.score)
        .slice(0, 6);
      found.set(file.id, matches);
    });
  }
  return found;
}

/** When a recorder starts after its attempt and stops after it, ms: the middle, and how much that varies. */
interface Habit {
  start: { middle: number; spread: number };
  end: { middle: number; spread: number };
}

/** Before anything is known of a recorder: most start and stop within a second. */
const unknownHabit: Habit = { start: { middle: 0, spread: 600 }, end: { middle: 0, spread: 700 } };
/** Fewer files than this say nothing of a habit. */
const fewestFiles = 8;
/** No recorder is more regular than this, and clocks of files are no finer. */
const finestSpread = 60;

function learnHabits(
  rows: readonly Loose[],
  places: readonly Place[],
  groups: readonly string[],
  shares: readonly number[][],
): Map<string, Habit> {
  const habits = new Map<string, Habit>();
  for (const group of new Set(groups)) {
    const starts: number[] = [];
    const ends: number[] = [];
    rows.forEach((file, r) => {
      if (groups[r] !== group || file.from === undefined || file.until === undefined) return;
      let best = -1;
      shares[r]!.forEach((share, p) => {
        if (places[p]!.timed && share > (best < 0 ? 0.05 : shares[r]![best]!)) best = p;
      });
      if (best < 0) return;
      starts.push(file.from - places[best]!.from);
      ends.push(file.until - places[best]!.until);
    });
    if (starts.length < fewestFiles) continue;
    habits.set(group, {
      start: habitOf(starts, unknownHabit.start.spread),
      end: habitOf(ends, unknownHabit.end.spread),
    });
  }
  return habits;
}

/** Median and scaled median deviation, so that some wrong pairs change little. */
function habitOf(lags: readonly number[], most: number): { middle: number; spread: number } {
  const middle = median(lags);
  const spread = 1.4826 * median(lags.map((lag) => Math.abs(lag - middle)));
  return { middle, spread: Math.min(most, Math.max(finestSpread, spread)) };
}

/** Only files of one sort compete: an attempt has a video and a HAR. */
const groupOf = (file: Loose): string => /\.[a-z]+$/i.exec(file.path)?.[0].toLowerCase() ?? '';

/** Weight of "belongs to none of them": evidence must be better than this to count for anything. */
const none = Math.exp(2);

const alone = (row: readonly number[]): number[] => {
  const sum = row.reduce((total, one) => total + one, none);
  return row.map((one) => one / sum);
};

function competing(weights: readonly number[][], groups: readonly string[]): number[][] {
  const out: number[][] = weights.map(() => []);
  for (const group of new Set(groups)) {
    const rows = weights.flatMap((row, r) => (groups[r] === group ? [r] : []));
    let shares = rows.map((r) => alone(weights[r]!));
    for (let round = 0; round < 30; round++) {
      const columns =
        shares[0]?.map((_, p) =>
          Math.max(
            1,
            shares.reduce((sum, row) => sum + row[p]!, 0),
          ),
        ) ?? [];
      shares = shares.map((row, i) => {
        const lowered = row.map((one, p) => (columns[p]! > 1 ? one / columns[p]! : one));
        const before = weights[rows[i]!]!;
        const rest = none / before.reduce((sum, one) => sum + one, none);
        const sum = lowered.reduce((total, one) => total + one, rest);
        return lowered.map((one) => one / sum);
      });
    }
    rows.forEach((r, i) => (out[r] = shares[i]!));
  }
  return out;
}

function weigh(
  file: Loose,
  path: ReadonlySet<string>,
  place: Place,
  title: { title: string[]; suite: string[] },
  telling: Telling,
  likeness: Likeness,
  habit: Habit,
): Evidence {
  const reasons: string[] = [];
  let weight = 0;
  const add = (by: number, reason?: string): void => {
    weight += by;
    if (reason && by > 0) reasons.push(reason);
  };
  const base = file.path.split('/').at(-1)!;
  const named = place.attachments.some((path) => samePath(path, file.path));
  if (named) add(14, `the report names ${base} for this attempt`);
  const titleShare = telling.share(title.title, path);
  // Half a title can be shared by accident; most of it cannot.
  if (titleShare > 0.5) add(9 * titleShare, `its path has ${Math.round(titleShare * 100)} % of the title’s words`);
  else add(2 * titleShare);
  if (titleShare > 0.3) add(2 * telling.share(title.suite, path));
  const browser = browserIn(file.path);
  if (browser && place.environment.browser) {
    const same = browserIn(place.environment.browser) === browser || place.environment.browser === browser;
    add(same ? 2.5 : -6, `its path names ${browser}`);
  }
  const number = tryIn(file.path);
  if (number !== undefined) add(number === place.number ? 2 : -5, `its path says it is try ${number}`);
  const size = sizeIn(file.path);
  if (size && place.environment.width)
    add(
      size.width === place.environment.width && size.height === place.environment.height ? 2 : -4,
      `its path says ${size.width} × ${size.height}`,
    );
  if (file.width && file.height && place.environment.width && place.environment.height)
    add(sizeWeight(file, place), `it is ${file.width} × ${file.height}, as the window was`);
  const time = place.timed ? timeWeight(file, place, habit) : undefined;
  if (time) add(time.weight, time.reason);
  const address = file.addresses?.find((one) => place.addresses.includes(one));
  if (address) add(2.5, `both speak of ${address}`);
  const seen = likeness(file.id, place.id);
  if (seen.weight) add(seen.weight, seen.reason);
  return { weight, reasons, named };
}

function samePath(told: string, path: string): boolean {
  const a = told.replaceAll('\\', '/').replace(/^(?:\.\/|[a-z]:)/i, '');
  const [longer, shorter] = a.length > path.length ? [a, path] : [path, a];
  return longer === shorter || longer.endsWith(shorter.startsWith('/') ? shorter : `/${shorter}`);
}

function sizeWeight(file: Loose, place: Place): number {
  const { width, height } = place.environment as { width: number; height: number };
  if (file.width === width && file.height === height) return 2;
  // Recorders scale, and pictures of a screen lack the window's frame.
  const scaled = Math.abs(file.width! / file.height! - width / height) < 0.02;
  return scaled ? 0.5 : -2;
}

const worst = -12;

function timeWeight(file: Loose, place: Place, habit: Habit): { weight: number; reason?: string } | undefined {
  const length = place.until - place.from;
  const slack = place.slack ?? 0;
  if (file.kind === 'moment') {
    const at = file.from ?? file.until;
    if (at === undefined) return undefined;
    const outside = Math.max(place.from - 300 - slack - at, at - place.until - 1500 - slack, 0);
    if (outside > 0) return { weight: Math.max(worst, -outside / 400) };
    const late = place.failed && at > place.from + length * 0.7;
    return {
      weight: late ? 3 : 2.5,
      reason: at < place.from ? 'taken as it began' : `taken ${seconds(at - place.from)} after its start`,
    };
  }
  if (file.from !== undefined && file.until !== undefined) {
    const start = file.from - place.from;
    const end = file.until - place.until;
    const weight = slack
      ? 6 +
        tail(start / Math.hypot(habit.start.spread, slack)) +
        tail((end - start) / Math.hypot(habit.end.spread, slack / 2))
      : 6 + tail((start - habit.start.middle) / habit.start.spread) + tail((end - habit.end.middle) / habit.end.spread);
    return {
      weight: Math.max(worst, weight),
      reason: `it begins ${seconds(Math.abs(start))} ${start < 0 ? 'before' : 'after'} it and lasts ${seconds(file.until - file.from)} against ${seconds(length)}`,
    };
  }
  if (file.durationMs !== undefined)
    return {
      weight: Math.max(worst, 1 + tail((file.durationMs - length) / unknownHabit.end.spread)),
      reason: `it lasts ${seconds(file.durationMs)}, the attempt ${seconds(length)}`,
    };
  return undefined;
}

/** Log-density of a spread with heavy tails (Student's t with 3 degrees of freedom), 0 at the middle. */
const tail = (z: number): number => -2 * Math.log(1 + (z * z) / 3);
