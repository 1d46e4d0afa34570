/** How much of one attempt is kept while it is recorded; beyond it, its steps and notes only. */
export interface Limits {
  events: number;
  /** Of pictures and page structures together, MB. */
  picturesMb: number;
}

export const usualLimits: Limits = { events: 200_000, picturesMb: 2048 };
