import { learnHabits, unknownHabit, type Habit } from './habits.ts';
import type { Loose, Place } from './loose.ts';
import { byOrder, type Ordered } from './order.ts';
import { alone, competing } from './shares.ts';
import { around, timeFit, type Around } from './time-fit.ts';
import { browserIn, namedBy, partsOf, sizeIn, Telling, tryIn, wordsOf, workerIn, type PathPart } from './words.ts';

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

/** Whether what is known of a file leaves a doubt. */
export const isDoubtful = (matches: readonly Match[] | undefined): boolean =>
  !matches?.length || matches[0]!.score < placedFrom;

interface Evidence {
  weight: number;
  reasons: string[];
  named: boolean;
}

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
  const titles = places.map((place) => {
    const title = wordsOf(place.title);
    return { title, suite: wordsOf(place.suite), words: title.join(' ') };
  });
  const run = around(files, places);
  const ordered = byOrder(files, places);
  const folders = [...new Set(places.flatMap(({ folder }) => folder ?? []))];
  const triesMarked = files.some(({ path }) => tryIn(path) !== undefined);
  const found = new Map<string, Match[]>();
  for (const kind of ['lasting', 'moment'] as const) {
    const rows = files.filter((file) => file.kind === kind);
    const paths = rows.map((file) => new Set(wordsOf(file.path)));
    const parts = rows.map((file) => partsOf(file.path));
    const inFolder = rows.map((file) => folderOf(file.path, folders));
    const groups = rows.map(groupOf);
    const sizes = new Map<string, number>();
    for (const group of groups) sizes.set(group, (sizes.get(group) ?? 0) + 1);
    const habits = new Map<string, Habit>();
    const look = (): { shares: number[][]; evidence: Evidence[][] } => {
      const evidence = rows.map((file, r) =>
        places.map((place, p) =>
          weigh({
            file,
            path: paths[r]!,
            place,
            parts: parts[r]!,
            title: titles[p]!,
            telling,
            likeness,
            habit: habits.get(groups[r]!) ?? unknownHabit,
            run,
            ordered: ordered.get(file.id),
            only: places.length === 1,
            triesMarked,
            folder: inFolder[r],
          }),
        ),
      );
      const weights = evidence.map((row) => row.map(({ weight }) => Math.exp(Math.min(weight, 30))));
      // An attempt has one video, and one HAR while there are no more of them than attempts.
      const rival = rows.map((file, r) => !file.alone && sizes.get(groups[r]!)! <= places.length);
      const shares = competing(weights, groups);
      return { shares: weights.map((row, r) => (rival[r] ? shares[r]! : alone(row))), evidence };
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

/** Only files of one sort compete: an attempt has a video and a HAR. */
const groupOf = (file: Loose): string => /\.[a-z]+$/i.exec(file.path)?.[0].toLowerCase() ?? '';

interface Case {
  file: Loose;
  path: ReadonlySet<string>;
  place: Place;
  /** The parts of the path in words. */
  parts: readonly PathPart[];
  title: { title: string[]; suite: string[]; words: string };
  telling: Telling;
  likeness: Likeness;
  habit: Habit;
  run: Around;
  ordered: Ordered | undefined;
  /** There is no other attempt in the run. */
  only: boolean;
  /** Of the folders that reports came in the one that the file lies in, where there are several. */
  folder: string | undefined;
  /** Some file of the delivery says which try it is of. */
  triesMarked: boolean;
}

function weigh(one: Case): Evidence {
  const { file, path, place, title, telling, likeness } = one;
  const reasons: string[] = [];
  let weight = 0;
  const add = (by: number, reason?: string): void => {
    weight += by;
    if (reason && by > 0) reasons.push(reason);
  };
  const base = file.path.split('/').at(-1)!;
  const named = place.attachments.some((path) => samePath(path, file.path));
  if (named) add(14, `the report names ${base} for this attempt`);
  if (one.folder !== undefined && place.folder !== undefined)
    add(one.folder === place.folder ? 3 : -5, `it lies in ${one.folder || 'the folder'} beside its report`);
  const exact = namedBy(one.parts, title.words);
  const titleShare = telling.share(title.title, path);
  // Half a title can be shared by accident; most of it cannot.
  if (exact) add(exact === 'whole' ? 13 : 9.5, `its path has the title${exact === 'whole' ? ' and nothing else' : ''}`);
  else if (titleShare > 0.5) add(9 * titleShare, `its path has ${Math.round(titleShare * 100)} % of the title’s words`);
  else add(2 * titleShare);
  if (titleShare > 0.3) add(2 * telling.share(title.suite, path));
  const browser = browserIn(file.path);
  if (browser && place.environment.browser) {
    const same = browserIn(place.environment.browser) === browser || place.environment.browser === browser;
    add(same ? 2.5 : -6, `its path names ${browser}`);
  }
  const number = tryIn(file.path);
  if (number !== undefined) add(number === place.number ? 2 : -5, `its path says it is try ${number}`);
  // Where others say which try they are, one that says nothing is of the first.
  else if (one.triesMarked) add(place.number === 1 ? 1.5 : -3, 'its path says no try, and others do');
  const size = sizeIn(file.path);
  if (size && place.environment.width)
    add(
      size.width === place.environment.width && size.height === place.environment.height ? 2 : -4,
      `its path says ${size.width} × ${size.height}`,
    );
  if (file.width && file.height && place.environment.width && place.environment.height)
    add(sizeWeight(file, place), `it is ${file.width} × ${file.height}, as the window was`);
  const worker = place.worker === undefined ? undefined : workerIn(file.path);
  if (worker !== undefined)
    add(worker === workerIn(`worker ${place.worker}`) ? 2.5 : -4, `its path names worker ${worker}`);
  const time = timeFit(file, place, one.habit, one.run);
  if (time) add(time.weight, time.reason);
  else if (one.only && file.shown) add(1.5, 'it is the only attempt of the run');
  if (one.ordered?.place === place.id) add(one.ordered.weight, one.ordered.reason);
  const spoken = file.speaksOf?.get(place.id);
  if (spoken)
    add(
      spoken === 'failure' ? 5 : 4,
      spoken === 'failure' ? 'it has the words of its failure' : 'it speaks of the test by name',
    );
  const address = file.addresses?.find((one) => place.addresses.includes(one));
  if (address) add(2.5, `both speak of ${address}`);
  const seen = likeness(file.id, place.id);
  if (seen.weight) add(seen.weight, seen.reason);
  return { weight, reasons, named };
}

/** The innermost of several folders that a path lies in. */
function folderOf(path: string, folders: readonly string[]): string | undefined {
  if (folders.length < 2) return undefined;
  return folders
    .filter((folder) => folder === '' || path.startsWith(`${folder}/`))
    .sort((a, b) => b.length - a.length)[0];
}

function samePath(told: string, path: string): boolean {
  const a = told.replaceAll('\\', '/').replace(/^(?:\.\/|[a-z]:)/i, '');
  const [longer, shorter] = a.length > path.length ? [a, path] : [path, a];
  return longer === shorter || longer.endsWith(shorter.startsWith('/') ? shorter : `/${shorter}`);
}

/** Screens lack the window's frame, and recorders round to even numbers. */
const near = (one: number, other: number): boolean => Math.abs(one - other) <= 0.05 * other;

function sizeWeight(file: Loose, place: Place): number {
  const { width, height } = place.environment as { width: number; height: number };
  if (near(file.width!, width) && near(file.height!, height)) return 2;
  // Recorders scale, and pictures of a screen lack the window's frame.
  const scaled = Math.abs(file.width! / file.height! - width / height) < 0.02;
  return scaled ? 0.5 : -2;
}
