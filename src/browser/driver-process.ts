import { spawn, type ChildProcess } from 'node:child_process';
import { Agent } from 'node:http';
import { createServer } from 'node:net';
import { guarded, trouble } from '../core/background.ts';
import type { Engine } from './engines.ts';
import type { Owner } from './owner.ts';
import { startScreen, type VirtualScreen } from './virtual-screen.ts';

/** One driver process with everything it starts. */
export interface Driver {
  port: number;
  agent: Agent;
  process: ChildProcess;
  alive: boolean;
  /** The screen its browser draws on, where it has one of its own. */
  screen: VirtualScreen | undefined;
  onExit: (listener: () => void) => void;
  close(): Promise<void>;
}

const startLimitMs = 20_000;

/** A driver takes its port in two steps; of many that start together one may find it taken, and ends. */
const mostTries = 4;

/** Starts a driver on a free port. Rejects with words when it does not come up. */
export async function startDriver(engine: Engine, owner: Owner): Promise<Driver> {
  for (let tries = 1; ; tries++) {
    try {
      return await startOnce(engine, owner);
    } catch (error) {
      if (tries === mostTries || !(error as Error).message.includes(endedAtOnce)) throw error;
    }
  }
}

const endedAtOnce = 'it ended at once';

async function startOnce(engine: Engine, owner: Owner): Promise<Driver> {
  const { mark, folder, env } = owner.next();
  try {
    const screen = engine.screen ? await startScreen(engine.screen, folder, env) : undefined;
    const close = async (): Promise<void> => {
      await screen?.close();
      await owner.end(mark, folder);
    };
    return engine.name === 'chromium'
      ? await startChromedriver(engine.driver, env, close)
      : await startWebkitDriver(engine.driver, { ...env, ...screen?.env }, close, screen);
  } catch (error) {
    await owner.end(mark, folder);
    throw error;
  }
}

/** It finds a port by itself, and says so when it listens. */
async function startChromedriver(program: string, env: NodeJS.ProcessEnv, end: () => Promise<void>): Promise<Driver> {
  const driver = running(program, ['--port=0', '--log-level=SEVERE'], env, end);
  let said = '';
  const port = new Promise<number>((done) => {
    const hear = (chunk: Buffer): void => {
      if (driver.port) return;
      said += chunk.toString();
      said = said.slice(-4000);
      const found = /successfully on port (\d+)/.exec(said)?.[1];
      if (found) done(Number(found));
    };
    driver.process.stdout?.on('data', hear);
    driver.process.stderr?.on('data', hear);
  });
  driver.port = await orEnded(driver, program, port, () => said);
  return driver;
}

/** It has to be given a port, and says nothing: it is asked until it answers. */
async function startWebkitDriver(
  program: string,
  env: NodeJS.ProcessEnv,
  end: () => Promise<void>,
  screen: VirtualScreen | undefined,
): Promise<Driver> {
  const port = await freePort();
  // Its browser's own sandbox cannot be had by root.
  const sandbox = process.getuid?.() === 0 ? { WEBKIT_DISABLE_SANDBOX_THIS_IS_DANGEROUS: '1' } : {};
  const driver = running(program, [`--port=${port}`], { ...env, ...sandbox }, end);
  driver.screen = screen;
  const answers = async (): Promise<number> => {
    while (driver.alive) {
      const answer = await fetch(`http://127.0.0.1:${port}/status`, { signal: AbortSignal.timeout(2000) }).catch(
        () => undefined,
      );
      if (answer?.ok) return port;
      await new Promise((done) => setTimeout(done, 20));
    }
    return 0;
  };
  driver.port = await orEnded(driver, program, answers(), () => '');
  return driver;
}

function running(program: string, args: string[], env: NodeJS.ProcessEnv, end: () => Promise<void>): Driver {
  const child = spawn(program, args, { env, stdio: ['ignore', 'pipe', 'pipe'], detached: true });
  const agent = new Agent({ keepAlive: true, maxSockets: 16 });
  const listeners: (() => void)[] = [];
  const driver: Driver = {
    port: 0,
    agent,
    process: child,
    alive: true,
    screen: undefined,
    onExit: (listener) => void listeners.push(listener),
    close: async () => {
      agent.destroy();
      await end();
    },
  };
  // What it says is read by whoever cares; unread, it would fill its pipe and stand still.
  child.stdout?.resume();
  child.stderr?.resume();
  child.on('error', (error) => trouble(`the driver ${program}`, error));
  child.on('exit', () => {
    driver.alive = false;
    for (const listener of listeners) guarded('hearing that a driver ended', listener);
  });
  return driver;
}

/** The port once it listens; a driver that ends before, or says nothing for long, is a failure in words. */
async function orEnded(driver: Driver, program: string, port: Promise<number>, said: () => string): Promise<number> {
  let timer: NodeJS.Timeout | undefined;
  try {
    return await Promise.race([
      port,
      new Promise<never>((_, fail) => {
        const giveUp = (why: string): void => fail(new Error(`${program} did not start: ${why}`));
        timer = setTimeout(() => giveUp(`nothing heard for ${startLimitMs / 1000} s`), startLimitMs);
        driver.process.on('error', (error) => giveUp(error.message));
        driver.process.on('exit', () => giveUp(`${endedAtOnce}: ${said().trim()}`));
      }),
    ]);
  } catch (error) {
    await driver.close();
    throw error;
  } finally {
    clearTimeout(timer);
  }
}

/** A port of the loopback that nobody has just now. */
export function freePort(): Promise<number> {
  return new Promise((done, fail) => {
    const server = createServer();
    server.on('error', fail);
    server.listen(0, '127.0.0.1', () => {
      const { port } = server.address() as { port: number };
      server.close(() => done(port));
    });
  });
}
