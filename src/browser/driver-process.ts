import { spawn, type ChildProcess } from 'node:child_process';
import { Agent } from 'node:http';
import type { Owner } from './owner.ts';

/** One driver process with everything it starts. */
export interface Driver {
  port: number;
  agent: Agent;
  process: ChildProcess;
  alive: boolean;
  onExit: (listener: () => void) => void;
  close(): Promise<void>;
}

const startLimitMs = 20_000;

/** A driver takes its port in two steps; of many that start together one may find it taken, and ends. */
const mostTries = 4;

/** Starts a chromedriver on a free port. Rejects with words when it does not come up. */
export async function startDriver(program: string, owner: Owner): Promise<Driver> {
  for (let tries = 1; ; tries++) {
    try {
      return await startOnce(program, owner);
    } catch (error) {
      if (tries === mostTries || !(error as Error).message.includes(endedAtOnce)) throw error;
    }
  }
}

const endedAtOnce = 'it ended at once';

function startOnce(program: string, owner: Owner): Promise<Driver> {
  const { mark, folder, env } = owner.next();
  const child = spawn(program, ['--port=0', '--log-level=SEVERE'], {
    env,
    stdio: ['ignore', 'pipe', 'pipe'],
    detached: true,
  });
  const agent = new Agent({ keepAlive: true, maxSockets: 16 });
  return new Promise((done, fail) => {
    let said = '';
    const listeners: (() => void)[] = [];
    const driver: Driver = {
      port: 0,
      agent,
      process: child,
      alive: true,
      onExit: (listener) => void listeners.push(listener),
      close: async () => {
        agent.destroy();
        await owner.end(mark, folder);
      },
    };
    const giveUp = (why: string): void => {
      clearTimeout(timer);
      void driver.close();
      fail(new Error(`${program} did not start: ${why}`));
    };
    const timer = setTimeout(() => giveUp(`nothing heard for ${startLimitMs / 1000} s`), startLimitMs);
    const hear = (chunk: Buffer): void => {
      if (driver.port) return;
      said += chunk.toString();
      const port = /successfully on port (\d+)/.exec(said)?.[1];
      if (!port) return;
      clearTimeout(timer);
      driver.port = Number(port);
      done(driver);
    };
    child.stdout?.on('data', hear);
    child.stderr?.on('data', hear);
    child.on('error', (error) => giveUp(error.message));
    child.on('exit', () => {
      driver.alive = false;
      if (driver.port === 0) giveUp(`${endedAtOnce}: ${said.trim()}`);
      for (const listener of listeners) listener();
    });
  });
}

/** Keeps one driver ready, so that a session does not wait for its start. */
export class DriverPool {
  private spare: Promise<Driver> | undefined;
  private closed = false;

  constructor(
    private readonly program: string,
    private readonly owner: Owner,
  ) {}

  /** A fresh driver for one session; the next one is started meanwhile. */
  async take(): Promise<Driver> {
    // Claimed before anything is awaited: of sessions that start together each gets a driver of its own.
    const claimed = this.spare;
    this.spare = undefined;
    const spare = await claimed?.catch(() => undefined);
    const driver = spare?.alive ? spare : await startDriver(this.program, this.owner);
    // Not at once: the session that is starting has the machine first.
    const again = (): void => {
      clearTimeout(timer);
      if (!this.closed) void this.ready().catch(() => {});
    };
    const timer = setTimeout(again, 8000).unref();
    driver.onExit(again);
    return driver;
  }

  /** The spare driver without taking it: for questions that belong to no session. */
  async ready(): Promise<Driver> {
    this.spare ??= startDriver(this.program, this.owner);
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
