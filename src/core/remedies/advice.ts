import type { CauseCode } from '../causes/cause.ts';
import type { Case } from './case.ts';
import type { DrillChange } from './change.ts';
import type { Shown } from './told.ts';

export type AdviceKind =
  | 'condition'
  | 'find-again'
  | 'limit'
  | 'pause'
  | 'locator'
  | 'window'
  | 'dialog'
  | 'step'
  | 'data'
  | 'place'
  | 'hand-over';

/** One thing to do about a suspect, in words that fit any runner, with what it is drawn from. */
export interface Advice {
  cause: CauseCode;
  kind: AdviceKind;
  /** What to do. */
  text: string;
  /** What it is drawn from, with counts and times. */
  because: string;
  /** In how many of how many attempts it is so; null where counting says nothing. */
  passing: [number, number] | null;
  failing: [number, number] | null;
  /** What shows it, in this attempt first and then in others. */
  shown: Shown[];
  /** The same as a change to a drill; absent where no drill can do it. */
  change?: DrillChange;
}

/** Draws advice for one suspect from the attempts; nothing where they do not show it. */
export type Adviser = (about: Case) => Omit<Advice, 'cause'>[];
