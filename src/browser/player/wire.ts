import { ownCommandMs } from '../recording/forward.ts';
import { clock } from '../recording/clock.ts';
import { parseJson } from '../recording/command-body.ts';
import type { Answer } from '../recording/wire-answer.ts';
import type { RemoteEnd } from '../remote-end.ts';

/** A page may take five minutes to load, by the protocol's own limit; what takes longer hangs. */
const longestCommandMs = 330_000;

/** A command that the browser answered with an error. */
export class WireFault extends Error {
  constructor(
    readonly code: string,
    message: string,
  ) {
    super(message);
  }
}

/** The driver is gone, or never answered: no fault of the page's, and no failure of the drill's. */
export class WireGone extends Error {}

/** Takes the commands down, as those of any test are taken down. */
export interface CommandNotes {
  before(method: string, path: string, body: Buffer): void;
  meanwhile(method: string, path: string, body: Buffer): void;
  after(method: string, path: string, body: Buffer, answer: Answer | undefined, at: number, until: number): void;
  /** Settled when the browser is free for the next command. */
  free?(): Promise<unknown> | undefined;
}

/** Sends WebDriver commands to a session of ours and has them recorded. */
export class Wire {
  notes: CommandNotes | undefined;
  /** A limit of the session was set to another. */
  private limited = false;

  constructor(
    private readonly end: RemoteEnd,
    private readonly session: string,
  ) {}

  /** Sends one command; gives its value. @throws WireFault with the driver's own code and message */
  async send<T = unknown>(method: string, path: string, body: Record<string, unknown> = {}, quiet = false): Promise<T> {
    const bytes = method === 'POST' ? Buffer.from(JSON.stringify(body)) : Buffer.alloc(0);
    const notes = quiet ? undefined : this.notes;
    this.limited ||= path === '/timeouts';
    notes?.before(method, path, bytes);
    await notes?.free?.();
    const at = clock();
    const answered = this.end.send(
      method,
      `/session/${this.session}${path}`,
      { 'content-type': 'application/json; charset=utf-8' },
      bytes,
      quiet ? ownCommandMs : longestCommandMs,
    );
    notes?.meanwhile(method, path, bytes);
    let answer: Answer | undefined;
    try {
      answer = await answered;
    } catch (error) {
      throw new WireGone((error as Error).message);
    } finally {
      notes?.after(method, path, bytes, answer, at, clock());
    }
    const parsed = parseJson(answer.body);
    const value = parsed?.value as { error?: string; message?: string } | null;
    if (answer.status !== 200)
      throw new WireFault(value?.error ?? 'unknown error', value?.message ?? `status ${answer.status}`);
    return value as T;
  }

  /** Sets the session's limits to what the standard begins with, where they became others. */
  async restLimits(): Promise<void> {
    if (!this.limited) return;
    await this.send('POST', '/timeouts', { implicit: 0, pageLoad: 300_000, script: 30_000 }, true);
    this.limited = false;
  }
}
