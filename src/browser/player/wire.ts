import { forward, ownCommandMs } from '../recording/forward.ts';
import { readCommand } from '../recording/commands.ts';
import { clock } from '../recording/clock.ts';
import type { AttemptRecorder } from '../recording/recorder.ts';
import { parseJson } from '../recording/command-body.ts';
import type { SessionWatch } from '../recording/session-watch.ts';
import type { Driver } from '../driver-process.ts';
import type { StepEvent } from '../../core/evidence/event.ts';

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
  recorder: AttemptRecorder | undefined;

  constructor(
    private readonly driver: Driver,
    private readonly session: string,
    private readonly watch: SessionWatch,
  ) {}

  /** Sends one command; gives its value. @throws WireFault with the driver's own code and message */
  async send<T = unknown>(method: string, path: string, body: Record<string, unknown> = {}, quiet = false): Promise<T> {
    const at = clock();
    const bytes = method === 'POST' ? Buffer.from(JSON.stringify(body)) : Buffer.alloc(0);
    const answer = await forward(
      this.driver,
      method,
      `/session/${this.session}${path}`,
      { 'content-type': 'application/json; charset=utf-8' },
      bytes,
      quiet ? ownCommandMs : longestCommandMs,
    );
    const until = clock();
    const parsed = parseJson(answer.body);
    if (!quiet) {
      const step: StepEvent | undefined = this.recorder?.command(readCommand(method, path), body, parsed, at, until);
      if (step && (step.data.error || step.data.action === 'press' || step.data.action === 'type'))
        this.watch.happened(Boolean(step.data.error) && step.data.action !== 'find');
      if (step?.data.action === 'find' && step.data.locator) this.watch.watch(step.data.locator);
    }
    const value = parsed?.value as { error?: string; message?: string } | null;
    if (answer.status !== 200)
      throw new WireFault(value?.error ?? 'unknown error', value?.message ?? `status ${answer.status}`);
    return value as T;
  }
}
