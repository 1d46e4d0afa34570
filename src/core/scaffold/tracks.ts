/** Puts bars that overlap in height beside each other: the lowest track that is free at its top. */
export interface Bar {
  top: number;
  height: number;
}

/**
 * @param bars in order of their top
 * @param gap free pixels kept between two bars of one track
 * @returns the track of each bar, from 0
 */
export function tracksOf(bars: readonly Bar[], gap = 2): number[] {
  const ends: number[] = [];
  return bars.map(({ top, height }) => {
    let track = ends.findIndex((end) => end + gap <= top);
    if (track < 0) track = ends.push(0) - 1;
    ends[track] = top + height;
    return track;
  });
}

export interface Label {
  left: number;
  top: number;
  width: number;
  height: number;
}

/**
 * Which labels can be shown without touching each other or an obstacle. Earlier ones go first;
 * the others give way and are read at the level.
 */
export function labelsThatFit(labels: readonly Label[], obstacles: readonly Label[] = []): boolean[] {
  // What is placed lies in rows of the page, so that a label is compared with its neighbours only.
  const rows = new Map<number, Label[]>();
  const rowsOf = (label: Label): number[] => {
    const first = Math.floor(label.top / rowHeight);
    const last = Math.floor((label.top + label.height) / rowHeight);
    return Array.from({ length: last - first + 1 }, (_, i) => first + i);
  };
  const place = (label: Label): void => {
    for (const row of rowsOf(label)) {
      const list = rows.get(row);
      if (list) list.push(label);
      else rows.set(row, [label]);
    }
  };
  for (const obstacle of obstacles) place(obstacle);
  return labels.map((label) => {
    const free = rowsOf(label).every((row) => (rows.get(row) ?? []).every((other) => !touch(label, other)));
    if (free) place(label);
    return free;
  });
}

/** Rows low enough to hold few labels, and high enough that a long bar stands in few of them; pixels. */
const rowHeight = 400;

const touch = (a: Label, b: Label): boolean =>
  a.left < b.left + b.width && b.left < a.left + a.width && a.top < b.top + b.height && b.top < a.top + a.height;
