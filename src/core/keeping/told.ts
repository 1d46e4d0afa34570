/** How the last letting go ended. */
export interface KeptNow {
  at: number;
  attempts: number;
  freed: number;
  /** Bytes over the budget that had to stay. */
  short: number;
  stopped: boolean;
}

/** Why nothing is let go of until somebody says so. */
export interface KeepingWait {
  why: 'clock' | 'share';
  words: string;
}

/** How much there is, what is being let go of, and how that ended last. */
export interface KeepingView {
  folder: { files: number; database: number; free: number };
  running: { done: number; of: number | null } | null;
  last: KeptNow | null;
  problem: string | null;
  waits: KeepingWait | null;
}
