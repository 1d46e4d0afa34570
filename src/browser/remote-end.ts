import type { IncomingHttpHeaders } from 'node:http';
import type { BidiLink, BidiListener } from './bidi-link.ts';
import type { Answer } from './recording/wire-answer.ts';
import type { VirtualScreen } from './virtual-screen.ts';

/** What a remote end says of a session it has begun. */
export interface NewSession {
  sessionId: string;
  capabilities: Record<string, unknown>;
}

/** The other side of a client's own BiDi socket. */
export interface SocketSide {
  readonly readyState: number;
  readonly bufferedAmount: number;
  readonly isPaused: boolean;
  send(data: unknown, options: { binary: boolean }, done: (error?: Error) => void): void;
  pause(): void;
  resume(): void;
  close(): void;
  terminate(): void;
  // As `ws` and `node:events` have it: the arguments are those of each event.
  // eslint-disable-next-line @typescript-eslint/no-explicit-any
  on(event: string, listener: (...args: any[]) => void): unknown;
}

/**
 * One browser behind the door: whatever it is and wherever it runs, it takes commands of the classic protocol and has,
 * where it can, a BiDi connection.
 */
export interface RemoteEnd {
  /**
   * Sends one command; gives the whole answer, unchanged.
   * @param path with its session, `/session/ID/url`
   * @param limitMs how long the answer may take; a test's own commands have the limits their session sets
   */
  send(method: string, path: string, headers: IncomingHttpHeaders, body: Buffer, limitMs?: number): Promise<Answer>;
  /** A BiDi connection to a session that has one. */
  bidi(session: NewSession, onEvent: BidiListener, onClose: () => void): Promise<BidiLink>;
  /** The other side for a client that opens a BiDi socket itself. */
  socket(session: NewSession): SocketSide;
  readonly alive: boolean;
  /** The screen its browser draws on, where it has one of its own. */
  readonly screen: VirtualScreen | undefined;
  onExit(listener: () => void): void;
  close(): Promise<void>;
}
