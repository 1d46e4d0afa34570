import type { ContrastView, SideView } from '../../core/contrast/view.ts';
import { readyMarks, scaleOf, elasticDefaults } from '../../core/scaffold/elastic.ts';
import { duration } from '../words.ts';

/** One step on its side, where it is drawn. */
export interface Board {
  slot: number;
  event: string;
  label: string;
  under: string;
  top: number;
  failed: boolean;
}

/** What ties the same step on both sides; it slopes where one side is later. */
export interface Rung {
  slot: number;
  left: number;
  right: number;
  /** How much later the failing side got since the rung before, ms. */
  lag: number;
  words: string;
  /** Where the words stand: beside the rung, clear of the split's own and of each other. */
  wordsTop: number;
}

export interface BackToBack {
  height: number;
  left: Board[];
  right: Board[];
  rungs: Rung[];
  /** Height at which they part; absent when they do not. */
  split?: number;
  /** Pixel of a time of one side. */
  y: { left(at: number): number; right(at: number): number };
}

export const boardHeight = 27;
const between = 6;
/** Free room above the first step, for what is written beside and above it. */
const pad = 16;
const wordsHeight = 16;
/** The words at the split reach this far above and below it. */
const splitReach = 12;
/** A lag under this is what any two attempts differ by, ms. */
const leastLag = 150;

/** Lays both sides out from one time, both beginning with their first step; nothing on a side covers another. */
export function backToBack(view: ContrastView): BackToBack {
  const sides = [view.left, view.right] as const;
  const marks = view.slots.flatMap((slot) =>
    (['left', 'right'] as const).flatMap((name, i) => {
      const plank = slot[name];
      return plank ? [{ at: plank.at - sides[i]!.start, needs: boardHeight + between, lane: name }] : [];
    }),
  );
  const until = Math.max(1, ...marks.map(({ at }) => at)) + 200;
  const scale = scaleOf(
    readyMarks(
      marks.map((mark) => ({ ...mark, at: Math.max(0, mark.at) })),
      until,
    ),
    {
      ...elasticDefaults,
      pxPerMs: 0.12,
      foldFromMs: Infinity,
      longest: 110,
    },
  );
  const y =
    (side: SideView | null) =>
    (at: number): number =>
      pad + scale.y(Math.max(0, Math.min(until, at - (side?.start ?? 0))));
  const places = { left: y(view.left), right: y(view.right) };
  const boards = { left: [] as Board[], right: [] as Board[] };
  const rungs: Rung[] = [];
  let before = 0;
  view.slots.forEach((slot, i) => {
    for (const name of ['left', 'right'] as const) {
      const plank = slot[name];
      if (!plank) continue;
      const last = boards[name].at(-1);
      const top = Math.max(places[name](plank.at), last ? last.top + boardHeight + between : 0);
      boards[name].push({
        slot: i,
        event: plank.event,
        label: plank.label,
        under: plank.error ?? plank.value ?? '',
        top,
        failed: plank.error !== null,
      });
    }
    if (slot.left && slot.right) {
      const late = slot.left.at - view.left.start - (slot.right.at - view.right!.start);
      const lag = late - before;
      before = late;
      rungs.push({
        slot: i,
        left: boards.left.at(-1)!.top + boardHeight / 2,
        right: boards.right.at(-1)!.top + boardHeight / 2,
        lag,
        words: Math.abs(lag) < leastLag ? '' : `${lag > 0 ? '+' : '−'}${duration(Math.abs(lag))}`,
        wordsTop: 0,
      });
    }
  });
  // The step it failed at is the last one of its side, whether its command was refused or its value was wrong.
  const end = boards.left.at(-1);
  if (end && view.right) end.failed = true;
  const tops = [...boards.left, ...boards.right].map(({ top }) => top);
  const at =
    view.split &&
    [...boards.left, ...boards.right].filter(({ slot }) => slot === view.split!.stepIndex).map(({ top }) => top);
  const split = at?.length ? Math.min(...at) - between / 2 : undefined;
  placeWords(rungs, split);
  return {
    height: Math.max(0, ...tops) + boardHeight + 26,
    ...boards,
    rungs,
    ...(split === undefined ? {} : { split }),
    y: places,
  };
}

/** Words stand above the middle of their rung; where something stands there already, below it. */
function placeWords(rungs: readonly Rung[], split: number | undefined): void {
  let free = -Infinity;
  for (const rung of rungs.filter(({ words }) => words)) {
    let top = Math.max(free, (rung.left + rung.right) / 2 - 18);
    if (split !== undefined && top < split + splitReach && top + wordsHeight > split - splitReach)
      top = split + splitReach;
    rung.wordsTop = top;
    free = top + wordsHeight;
  }
}
