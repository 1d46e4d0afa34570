import type { Environment } from '../../core/evidence/attempt.ts';
import type { Abilities } from '../abilities.ts';
import type { BidiLink, BidiListener } from '../bidi-link.ts';
import type { DebuggingDoor } from '../debugging-door.ts';

/** Sees targets as the browser tells of them. */
export type TargetSeen = (
  session: string,
  target: { targetId: string; browserContextId?: string; type: string },
) => void;

/** A browser that can be watched while somebody drives it. */
export interface WatchedBrowser {
  environment(): Promise<Environment>;
  abilities: Abilities;
  /** @param seen told of a page and the debugging session it has, where there are such */
  link(onEvent: BidiListener, seen: TargetSeen, onClose: () => void): Promise<BidiLink>;
  /** All that is heard of it. */
  events: readonly string[];
  /** Where pictures come straight from it. */
  door?: DebuggingDoor;
}
