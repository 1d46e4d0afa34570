import { forward, ownCommandMs, type Answer } from '../recording/forward.ts';
import { clock } from '../recording/clock.ts';
import type { CommandRecorder } from '../recording/command-recorder.ts';
import { parseJson } from '../recording/command-body.ts';
import type { Driver } from '../driver-process.ts';

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

/** Sends WebDriver commands to a session of ours and records them like any test's. */
export class Wire {
  commands: CommandRecorder | undefined;

  constructor(
    private readonly driver: Driver,
    private readonly session: string,
  ) {}

  /** Sends one command; gives its value. @throws WireFault with the driver's own code and message */
  async send<T = unknown>(method: string, path: string, body: Record<string, unknown> = {}, quiet = false): Promise<T> {
    const bytes = method === 'POST' ? Buffer.from(JSON.stringify(body)) : Buffer.alloc(0);
    const commands = quiet ? undefined : this.commands;
    commands?.before(method, path, bytes);
    const at = clock();
    const answered = forward(
      this.driver,
      method,
      `/session/${this.session}${path}`,
      { 'content-type': 'application/json; charset=utf-8' },
      bytes,
      quiet ? ownCommandMs : longestCommandMs,
    );
    commands?.meanwhile(method, path, bytes);
    let answer: Answer | undefined;
    try {
      answer = await answered;
    } finally {
      commands?.after(method, path, bytes, answer, at, clock());
    }
    const parsed = parseJson(answer.body);
    const value = parsed?.value as { error?: string; message?: string } | null;
    if (answer.status !== 200)
      throw new WireFault(value?.error ?? 'unknown error', value?.message ?? `status ${answer.status}`);
    return value as T;
  }
}
