import type { Locator } from '../../core/evidence/event.ts';

/** What sees more of a recorded session than its commands. */
export interface Watch {
  /** A locator the test uses, from now on. */
  watch(locator: Locator): void;
  /** Whether the page itself tells what its fields hold. */
  readonly tellsFields: boolean;
  /** A step changed the page, or failed. */
  happened(failed: boolean): void;
  /** Waits, not long, for what is still under way and may tell why the test failed. */
  linger(): Promise<void>;
  /** Hands over what is held back, at the end of an attempt. */
  flush(failed: boolean): Promise<void>;
  /** The test has been silent for a moment: what could wait may be done now. */
  idle(): void;
  /** A page is about to be opened. */
  opens?(): void;
  /** A page was opened. @returns the window's size, where it is known without asking */
  opened?(): { width: number; height: number } | undefined;
  /** The window has another size from now on. */
  sized?(width: number, height: number): void;
  close(): void;
}
