import { learnHabits, unknownHabit, type Habit } from './habits.ts';
import type { Loose, Place } from './loose.ts';
import { byOrder } from './order.ts';
import { alone, competing } from './shares.ts';
import { around } from './time-fit.ts';
import { fixedWeight, isNamed, readFile, readPlaces, timeWeight, type Likeness } from './weigh.ts';
import { tryIn } from './words.ts';

export interface Match {
  place: string;
  /** Probability that it belongs there, 0 to 1, over all attempts and none. */
  score: number;
  reasons: string[];
  /** The report itself says so. */
  named: boolean;
}

/** Files are placed without asking from this probability on; the others wait for a person. */
export const placedFrom = 0.9;

/** What is less likely is no match, and so many of the best are told. */
const leastShare = 0.01;
const mostMatches = 6;

/** Whether what is known of a file leaves a doubt. */
export const isDoubtful = (matches: readonly Match[] | undefined): boolean =>
  !matches?.length || matches[0]!.score < placedFrom;

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
  const common = {
    run: around(files, places),
    likeness,
    only: places.length === 1,
    triesMarked: files.some(({ path }) => tryIn(path) !== undefined),
  };
  const ordered = byOrder(files, places);
  const folders = [...new Set(places.flatMap(({ folder }) => folder ?? []))];
  const columns = readPlaces(places);
  const found = new Map<string, Match[]>();
  for (const kind of ['lasting', 'moment'] as const) {
    const own = files.filter((file) => file.kind === kind);
    const rows = own.map((file) => readFile(file, folderOf(file.path, folders), ordered.get(file.id)));
    const groups = own.map(groupOf);
    const sizes = new Map<string, number>();
    for (const group of groups) sizes.set(group, (sizes.get(group) ?? 0) + 1);
    const habits = new Map<string, Habit>();
    const habitOf = (r: number): Habit => habits.get(groups[r]!) ?? unknownHabit;
    // Reasons are told of the few that matter: a large delivery has a million pairs.
    const fixed = rows.map((row) => columns.map((column) => fixedWeight(row, column, common)));
    const look = (): number[][] => {
      const weights = rows.map((row, r) =>
        columns.map((column, p) => Math.exp(Math.min(fixed[r]![p]! + timeWeight(row, column, habitOf(r), common), 30))),
      );
      // An attempt has one video, and one HAR while there are no more of them than attempts.
      const rival = own.map((file, r) => !file.alone && sizes.get(groups[r]!)! <= places.length);
      const shares = competing(weights, groups);
      return weights.map((row, r) => (rival[r] ? shares[r]! : alone(row)));
    };
    let shares = look();
    // How a recorder starts and stops shows in all its files together; knowing it, each is told apart better.
    for (let round = 0; kind === 'lasting' && round < 4; round++) {
      const learnt = learnHabits(own, places, groups, shares);
      if (!learnt.size) break;
      for (const [group, habit] of learnt) habits.set(group, habit);
      shares = look();
    }
    rows.forEach((row, r) => {
      const matches = columns
        .flatMap((column, p): Match[] => {
          const score = shares[r]![p]!;
          if (score <= leastShare) return [];
          const reasons: string[] = [];
          fixedWeight(row, column, common, reasons);
          timeWeight(row, column, habitOf(r), common, reasons);
          return reasons.length ? [{ place: column.place.id, score, reasons, named: isNamed(row, column) }] : [];
        })
        .sort((x, y) => y.score - x.score)
        .slice(0, mostMatches);
      found.set(row.file.id, matches);
    });
  }
  return found;
}

/** Only files of one sort compete: an attempt has a video and a HAR. */
const groupOf = (file: Loose): string => /\.[a-z]+$/i.exec(file.path)?.[0].toLowerCase() ?? '';

/** The innermost of several folders that a path lies in. */
function folderOf(path: string, folders: readonly string[]): string | undefined {
  if (folders.length < 2) return undefined;
  return folders
    .filter((folder) => folder === '' || path.startsWith(`${folder}/`))
    .sort((a, b) => b.length - a.length)[0];
}
