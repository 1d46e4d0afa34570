import type { ClueCode } from './codes.ts';
import type { Scene } from './scene.ts';

/** A fact found by the analysis, with the events that show it. */
export interface Clue {
  code: ClueCode;
  at: number;
  until?: number;
  summary: string;
  /** How plainly the evidence shows it, 0…1; not how likely any cause is. */
  strength: number;
  /** Ids of events, the most telling first. */
  evidence: string[];
}

/** One kind of clue: what it looks for, and why it may be unable to tell. */
export interface ClueKind {
  code: ClueCode;
  /** One sentence: what it is evidence of. */
  about: string;
  find(scene: Scene): Omit<Clue, 'code'>[];
}
