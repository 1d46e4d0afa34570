/** From where on something counts as a clue; a workspace may set its own. */
export interface Thresholds {
  /** An element that is pressed had moved by so many pixels. */
  movedPx: number;
  /** A plain command takes so long with nothing to wait for: the machine is slow, ms. */
  slowCommandMs: number;
  /** Everything takes so many times as long as in passing attempts. */
  stretchedBy: number;
  /** A wait uses such a share of its limit in an attempt that passed. */
  nearLimit: number;
}

export const usualThresholds: Thresholds = { movedPx: 6, slowCommandMs: 75, stretchedBy: 1.8, nearLimit: 0.7 };

export const thresholdsOf = ({ facts }: { facts: { thresholds?: Thresholds } }): Thresholds =>
  facts.thresholds ?? usualThresholds;
