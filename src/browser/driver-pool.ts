import { background } from '../core/background.ts';
import { startDriver, type Driver } from './driver-process.ts';
import type { Engine } from './engines.ts';
import type { Owner } from './owner.ts';

/** Keeps one driver ready, so that a session does not wait for its start. */
export class DriverPool {
  private spare: Promise<Driver> | undefined;
  private closed = false;

  constructor(
    readonly engine: Engine,
    private readonly owner: Owner,
  ) {}

  /** A fresh driver for one session; the next one is started meanwhile. */
  async take(): Promise<Driver> {
    // Claimed before anything is awaited: of sessions that start together each gets a driver of its own.
    const claimed = this.spare;
    this.spare = undefined;
    const spare = await claimed?.catch(() => undefined);
    const driver = spare && (await answers(spare)) ? spare : await startDriver(this.engine, this.owner);
    // One that does not answer is stopped or hangs: nobody gets it.
    if (spare && driver !== spare) background('ending a spare driver that hangs', spare.close());
    // Not at once: the session that is starting has the machine first.
    const again = (): void => {
      clearTimeout(timer);
      if (!this.closed) background('starting a driver ahead', this.ready());
    };
    const timer = setTimeout(again, 8000).unref();
    driver.onExit(again);
    return driver;
  }

  /** The spare driver without taking it: for questions that belong to no session. */
  async ready(): Promise<Driver> {
    this.spare ??= startDriver(this.engine, this.owner);
    const asked = this.spare;
    try {
      const driver = await asked;
      if (driver.alive) return driver;
    } catch (error) {
      if (this.spare === asked) this.spare = undefined;
      throw error;
    }
    if (this.spare === asked) this.spare = undefined;
    return this.ready();
  }

  async close(): Promise<void> {
    this.closed = true;
    const spare = await this.spare?.catch(() => undefined);
    await spare?.close();
  }
}

/** A driver that stood ready may have been stopped meanwhile. */
const readyWithinMs = 2500;

const answers = async (driver: Driver): Promise<boolean> =>
  driver.alive &&
  fetch(`http://127.0.0.1:${driver.port}/status`, { signal: AbortSignal.timeout(readyWithinMs) }).then(
    async (answer) => {
      await answer.arrayBuffer();
      return answer.ok;
    },
    () => false,
  );
