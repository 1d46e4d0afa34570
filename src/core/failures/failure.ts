import type { Locator } from '../evidence/event.ts';

export type FailureKind =
  | 'stale-element'
  | 'press-intercepted'
  | 'no-such-element'
  | 'not-interactable'
  | 'no-such-window'
  | 'unexpected-dialog'
  | 'timeout'
  | 'script-error'
  | 'assertion'
  /** An exception in the test's own code. */
  | 'test-error'
  | 'invalid-locator'
  /** The browser or its session ended. */
  | 'browser-gone'
  /** The application could not be reached over the network. */
  | 'unreachable'
  | 'driver-error'
  | 'unread';

export interface Frame {
  file: string;
  line: number;
  column?: number;
  name?: string;
}

/** A failure read for a person. Whatever could not be read is absent, never guessed; the raw text is always there. */
export interface Failure {
  kind: FailureKind;
  /** One plain sentence. */
  sentence: string;
  /** The step it failed at. */
  step?: string;
  at?: number;
  locator?: Locator;
  /** Where the press would have landed, CSS pixels in the viewport. */
  point?: { x: number; y: number };
  /** Markup of the element that would have received the press. */
  obstructing?: string;
  expected?: string;
  actual?: string;
  limitMs?: number;
  /** Handle or name of the window or frame the message speaks of. */
  window?: string;
  /** The first line of the stack that is the team's own code. */
  ownFrame?: Frame;
  libraryFrames: number;
  message: string;
  stack: string;
}
