import type { ContrastView } from '../../core/contrast/view.ts';
import type { Advice } from '../../core/remedies/advice.ts';
import type { Remedy } from '../../core/remedies/remedy.ts';
import { AskedThread } from './thread.ts';

/** What to do about an attempt: in words, and as changed drills. */
export interface AdviceOn {
  advice: Omit<Advice, 'change'>[];
  /** Best first; empty where no commands were recorded. */
  remedies: Remedy[];
}

/** What the thread is asked. */
export type Question =
  | { about: 'contrast'; failing: readonly string[]; passing: readonly string[] }
  | {
      about: 'advice';
      subject: string;
      failing: readonly string[];
      passing: readonly string[];
      cleared: readonly string[];
    };

/** Attempts held against each other as it is asked for, off the server's thread. */
export class Contrasts {
  private readonly thread: AskedThread<Question, unknown>;

  constructor(home: string) {
    this.thread = new AskedThread(new URL('./contrast-thread.ts', import.meta.url), { home });
  }

  /** @returns null when none of the failing attempts has been analysed yet */
  of(failing: readonly string[], passing: readonly string[]): Promise<ContrastView | null> {
    return this.thread.ask({ about: 'contrast', failing, passing }) as Promise<ContrastView | null>;
  }

  /**
   * What to do about the suspects of one attempt.
   * @param failing others of its family @param passing of its test @param cleared causes that a person has cleared
   */
  advice(
    subject: string,
    failing: readonly string[],
    passing: readonly string[],
    cleared: readonly string[],
  ): Promise<AdviceOn> {
    return this.thread.ask({ about: 'advice', subject, failing, passing, cleared }) as Promise<AdviceOn>;
  }

  close(): Promise<void> {
    return this.thread.close();
  }
}
