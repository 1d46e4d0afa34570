import type { Locator } from '../../core/evidence/event.ts';

/** What sees more of a recorded session than its commands. */
export interface Watch {
  /** A locator the test uses, from now on. */
  watch(locator: Locator): void;
  /** A step changed the page, or failed. */
  happened(failed: boolean): void;
  /** Waits, not long, for what is still under way and may tell why the test failed. */
  linger(): Promise<void>;
  /** Hands over what is held back. */
  flush(): Promise<void>;
  close(): void;
}
