import { background } from '../core/background.ts';
import { startDriver } from './driver-process.ts';
import type { Engine } from './engines.ts';
import type { Owner } from './owner.ts';
import type { Place, PlaceHealth } from './place.ts';
import { engineNamed } from './recording/engine-asked.ts';
import type { RemoteEnd } from './remote-end.ts';

/** More sessions at once than a machine can have browsers. */
const mostSessions = 100;

/** A driver that takes a session from whoever finds it is not left standing longer than this, ms. */
const longestUnguardedMs = 5000;

/** An engine of this machine. Keeps one driver ready, so that a session does not wait for its start. */
export class DriverPool implements Place {
  readonly remote = false;
  readonly most = mostSessions;
  taken = 0;
  private spare: Promise<RemoteEnd> | undefined;
  private closed = false;
  private failed: string | undefined;

  constructor(
    private readonly of: Engine,
    private readonly owner: Owner,
  ) {}

  get name(): string {
    return this.of.name;
  }
  get engine(): string {
    return this.of.name;
  }
  get version(): string {
    return this.of.version;
  }
  get abilities(): Engine['abilities'] {
    return this.of.abilities;
  }
  get launch(): Engine['launch'] {
    return this.of.launch;
  }

  answersTo(browserName: string): boolean {
    return engineNamed(browserName) === this.of.name;
  }

  health(): PlaceHealth {
    return this.failed === undefined ? { ok: true, message: 'on this machine' } : { ok: false, message: this.failed };
  }

  /** A fresh driver for one session; the next one is started meanwhile. */
  async take(): Promise<RemoteEnd> {
    // Claimed before anything is awaited: of sessions that start together each gets a driver of its own.
    const claimed = this.spare;
    this.spare = undefined;
    const spare = await claimed?.catch(() => undefined);
    const driver = spare && (await answers(spare)) ? spare : await this.start();
    // One that does not answer is stopped or hangs: nobody gets it.
    if (spare && driver !== spare) background('ending a spare driver that hangs', spare.close());
    this.taken++;
    // Not at once: the session that is starting has the machine first.
    const again = (): void => {
      clearTimeout(timer);
      if (!this.closed && this.of.guarded) background('starting a driver ahead', this.ready());
    };
    const timer = setTimeout(again, 8000).unref();
    driver.onExit(() => {
      this.taken--;
      again();
    });
    return driver;
  }

  private async start(): Promise<RemoteEnd> {
    try {
      const driver = await startDriver(this.of, this.owner);
      this.failed = undefined;
      return driver;
    } catch (error) {
      this.failed = (error as Error).message;
      throw error;
    }
  }

  private async startSpare(): Promise<RemoteEnd> {
    const driver = await this.start();
    if (!this.of.guarded)
      setTimeout(() => {
        if (this.spare === undefined) return;
        background('ending a spare driver', this.letSpareGo(driver));
      }, longestUnguardedMs).unref();
    return driver;
  }

  private async letSpareGo(driver: RemoteEnd): Promise<void> {
    const { spare } = this;
    if ((await spare?.catch(() => undefined)) !== driver || this.spare !== spare) return;
    this.spare = undefined;
    await driver.close();
  }

  /** The spare driver without taking it: for questions that belong to no session. */
  async ready(): Promise<RemoteEnd> {
    this.spare ??= this.startSpare();
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

const answers = async (driver: RemoteEnd): Promise<boolean> =>
  driver.alive &&
  driver.send('GET', '/status', {}, Buffer.alloc(0), readyWithinMs).then(
    ({ status }) => status === 200,
    () => false,
  );
