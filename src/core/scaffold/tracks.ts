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
  const placed: Label[] = [...obstacles];
  return labels.map((label) => {
    const free = placed.every(
      (other) =>
        label.left >= other.left + other.width ||
        other.left >= label.left + label.width ||
        label.top >= other.top + other.height ||
        other.top >= label.top + label.height,
    );
    if (free) placed.push(label);
    return free;
  });
}
