import type { Answer } from '../recording/wire-answer.ts';

/** A step of a DevTools client, as a WebDriver command and its answer. */
export interface ClientStep {
  /** The target it was sent to: a page or a frame of its own. */
  target: string;
  method: string;
  path: string;
  body: Buffer;
  answer: Answer | undefined;
  at: number;
  until: number;
}

/** What becomes of targets, as far as the client's own connection tells. */
export interface ClientListener {
  step(step: ClientStep): void;
  /** The client is about to open an address: what it asks for then is the application's own. */
  opens(target: string, address: string): void;
  /** A command was sent and is not answered: the test waits for the browser. */
  busy(target: string, busy: boolean): void;
  /**
   * The client does something to an element with a function of its own, and no input tells what: from then on, and until when.
   * @param until nothing while it is not answered
   */
  byItself(target: string, element: string, at: number, until?: number): void;
  /** The client opens a page, in an isolated context or in the one that is there. */
  begins(browserContext: string | undefined, at: number): void;
  /** The client is done with an isolated context. */
  disposes(browserContext: string, at: number): void;
}
