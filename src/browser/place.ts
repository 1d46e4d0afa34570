import type { Abilities } from './abilities.ts';
import type { Launch } from './recording/launch-options.ts';
import type { RemoteEnd } from './remote-end.ts';

/** How a place stands, as it was found last. */
export interface PlaceHealth {
  ok: boolean;
  /** What is wrong and how to mend it, or that nothing is. */
  message: string;
  /** When it was looked at, epoch ms; nothing before the first look. */
  checkedAt?: number;
}

/** Where sessions can be had: an engine of this machine, or a remote endpoint that the local settings name. */
export interface Place {
  readonly name: string;
  /** Of the browser that sessions get there. */
  readonly engine: string;
  readonly version: string;
  readonly abilities: Abilities;
  readonly launch: Launch;
  readonly remote: boolean;
  /** Laid on every attempt recorded there. */
  readonly labels?: Readonly<Record<string, string>>;
  /** Sessions at once, and how many there are. */
  readonly most: number;
  readonly taken: number;
  /** Whether a session for this browser name may be had here. */
  answersTo(browserName: string): boolean;
  /** One browser for one session. @throws Error in words when none can be had */
  take(): Promise<RemoteEnd>;
  /** An end for questions that belong to no session. */
  ready(): Promise<RemoteEnd>;
  health(): PlaceHealth;
  close(): Promise<void>;
}
