import type { Habit } from './habits.ts';
import type { Loose, Place } from './loose.ts';
import type { Ordered } from './order.ts';
import { timeFit, type Around } from './time-fit.ts';
import {
  browserIn,
  namedBy,
  partsOf,
  shareOf,
  sizeIn,
  Telling,
  tryIn,
  wordsOf,
  workerIn,
  type PathPart,
  type WeighedTitle,
} from './words.ts';

/** What one file and one place say of each other, as log-odds. What either says by itself is read once, for all pairs. */

/** What pictures say: how strongly a file’s pictures are those of an attempt, as log-odds; 0 says nothing. */
export type Likeness = (file: string, place: string) => { weight: number; reason?: string };

/** What a file says by itself. */
export interface FileRead {
  file: Loose;
  words: ReadonlySet<string>;
  parts: readonly PathPart[];
  base: string;
  browser: string | undefined;
  number: number | undefined;
  size: { width: number; height: number } | undefined;
  worker: number | undefined;
  /** Of the folders that reports came in the one that it lies in, where there are several. */
  folder: string | undefined;
  ordered: Ordered | undefined;
}

/** What a place says by itself. */
export interface PlaceRead {
  place: Place;
  title: WeighedTitle;
  titleText: string;
  suite: WeighedTitle;
  browser: string | undefined;
  worker: number | undefined;
  /** Paths the report names for it, as a delivery writes them. */
  attachments: readonly string[];
}

/** What is the same for all pairs. */
export interface Common {
  run: Around;
  likeness: Likeness;
  /** There is no other attempt in the run. */
  only: boolean;
  /** Some file of the delivery says which try it is of. */
  triesMarked: boolean;
}

export const readFile = (file: Loose, folder: string | undefined, ordered: Ordered | undefined): FileRead => ({
  file,
  words: new Set(wordsOf(file.path)),
  parts: partsOf(file.path),
  base: file.path.split('/').at(-1)!,
  browser: browserIn(file.path),
  number: tryIn(file.path),
  size: sizeIn(file.path),
  worker: workerIn(file.path),
  folder,
  ordered,
});

export function readPlaces(places: readonly Place[]): PlaceRead[] {
  const telling = new Telling(places.map((place) => `${place.suite} ${place.title}`));
  return places.map((place) => {
    const title = wordsOf(place.title);
    return {
      place,
      title: telling.weighed(title),
      titleText: title.join(' '),
      suite: telling.weighed(wordsOf(place.suite)),
      browser: place.environment.browser ? browserIn(place.environment.browser) : undefined,
      worker: place.worker === undefined ? undefined : workerIn(`worker ${place.worker}`),
      attachments: place.attachments.map(plainPath),
    };
  });
}

/** Whether the report names the file for the attempt. */
export const isNamed = ({ file }: FileRead, { attachments }: PlaceRead): boolean =>
  attachments.some((told) => samePath(told, file.path));

/** All that does not depend on how a recorder starts and stops. @param reasons filled with what speaks for it, in words */
export function fixedWeight(row: FileRead, column: PlaceRead, common: Common, reasons?: string[]): number {
  const { file } = row;
  const { place } = column;
  let weight = 0;
  const add = (by: number, reason?: () => string): void => {
    weight += by;
    if (reasons && reason && by > 0) reasons.push(reason());
  };
  if (isNamed(row, column)) add(14, () => `the report names ${row.base} for this attempt`);
  if (row.folder !== undefined && place.folder !== undefined)
    add(row.folder === place.folder ? 3 : -5, () => `it lies in ${row.folder || 'the folder'} beside its report`);
  const exact = namedBy(row.parts, column.titleText);
  const titleShare = shareOf(column.title, row.words);
  // Half a title can be shared by accident; most of it cannot.
  if (exact)
    add(exact === 'whole' ? 13 : 9.5, () => `its path has the title${exact === 'whole' ? ' and nothing else' : ''}`);
  else if (titleShare > 0.5)
    add(9 * titleShare, () => `its path has ${Math.round(titleShare * 100)} % of the title’s words`);
  else add(2 * titleShare);
  if (titleShare > 0.3) add(2 * shareOf(column.suite, row.words));
  const { browser, number, size, worker } = row;
  if (browser && place.environment.browser) {
    const same = column.browser === browser || place.environment.browser === browser;
    add(same ? 2.5 : -6, () => `its path names ${browser}`);
  }
  if (number !== undefined) add(number === place.number ? 2 : -5, () => `its path says it is try ${number}`);
  // Where others say which try they are, one that says nothing is of the first.
  else if (common.triesMarked) add(place.number === 1 ? 1.5 : -3, () => 'its path says no try, and others do');
  if (size && place.environment.width)
    add(
      size.width === place.environment.width && size.height === place.environment.height ? 2 : -4,
      () => `its path says ${size.width} × ${size.height}`,
    );
  if (file.width && file.height && place.environment.width && place.environment.height)
    add(sizeWeight(file, place), () => `it is ${file.width} × ${file.height}, as the window was`);
  if (worker !== undefined && place.worker !== undefined)
    add(worker === column.worker ? 2.5 : -4, () => `its path names worker ${worker}`);
  if (row.ordered?.place === place.id) add(row.ordered.weight, () => row.ordered!.reason);
  const spoken = file.speaksOf?.get(place.id);
  if (spoken)
    add(spoken === 'failure' ? 5 : 4, () =>
      spoken === 'failure' ? 'it has the words of its failure' : 'it speaks of the test by name',
    );
  const address = file.addresses?.find((one) => place.addresses.includes(one));
  if (address) add(2.5, () => `both speak of ${address}`);
  const seen = common.likeness(file.id, place.id);
  if (seen.weight) add(seen.weight, seen.reason === undefined ? undefined : () => seen.reason!);
  return weight;
}

/** What the file’s time says. @param reasons filled with what speaks for it, in words */
export function timeWeight(
  { file }: FileRead,
  { place }: PlaceRead,
  habit: Habit,
  { run, only }: Common,
  reasons?: string[],
): number {
  const time = timeFit(file, place, habit, run);
  if (time) {
    if (time.weight > 0) reasons?.push(time.reason());
    return time.weight;
  }
  if (!only || !file.shown) return 0;
  reasons?.push('it is the only attempt of the run');
  return 1.5;
}

const plainPath = (told: string): string => told.replaceAll('\\', '/').replace(/^(?:\.\/|[a-z]:)/i, '');

function samePath(told: string, path: string): boolean {
  const [longer, shorter] = told.length > path.length ? [told, path] : [path, told];
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
