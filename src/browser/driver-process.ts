import { spawn, type ChildProcess } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { guarded, trouble } from '../core/background.ts';
import type { Engine } from './engines.ts';
import type { Owner } from './owner.ts';
import { freePort, loopback, secretLoopback } from './free-port.ts';
import { firefoxProfile, FirefoxEnd } from './firefox/firefox-end.ts';
import { HttpEnd } from './http-end.ts';
import type { RemoteEnd } from './remote-end.ts';
import { unreachablePort } from './unreachable-port.ts';
import { startScreen, type VirtualScreen } from './virtual-screen.ts';

/** One driver process with everything it starts, spoken to by HTTP. */
export class DriverProcess extends HttpEnd implements RemoteEnd {
  alive = true;
  private readonly listeners: (() => void)[] = [];

  constructor(
    readonly process: ChildProcess,
    readonly base: string,
    private readonly end: () => Promise<void>,
    readonly screen: VirtualScreen | undefined,
  ) {
    super(base);
    process.on('exit', () => {
      this.alive = false;
      for (const listener of this.listeners) guarded('hearing that a driver ended', listener);
    });
    this.alive = process.exitCode === null && process.signalCode === null;
  }

  onExit(listener: () => void): void {
    this.listeners.push(listener);
  }

  async close(): Promise<void> {
    this.destroy();
    await this.end();
  }
}

const startLimitMs = 20_000;

/** A driver takes its port in two steps; of many that start together one may find it taken, and ends. */
const mostTries = 4;

/** Starts a driver on a free port. Rejects with words when it does not come up. */
export async function startDriver(engine: Engine, owner: Owner): Promise<RemoteEnd> {
  for (let tries = 1; ; tries++) {
    try {
      return await startOnce(engine, owner);
    } catch (error) {
      if (tries === mostTries || !(error as Error).message.includes(endedAtOnce)) throw error;
    }
  }
}

const endedAtOnce = 'it ended at once';

async function startOnce(engine: Engine, owner: Owner): Promise<RemoteEnd> {
  const { mark, folder, env } = owner.next();
  try {
    const screen = engine.screen ? await startScreen(engine.screen, folder, env) : undefined;
    const close = async (): Promise<void> => {
      await screen?.close();
      await owner.end(mark, folder);
    };
    return await starters[engine.start](engine, { ...env, ...screen?.env }, folder, close, screen);
  } catch (error) {
    await owner.end(mark, folder);
    throw error;
  }
}

type Starter = (
  engine: Engine,
  env: NodeJS.ProcessEnv,
  folder: string,
  end: () => Promise<void>,
  screen: VirtualScreen | undefined,
) => Promise<RemoteEnd>;

/** How each kind of driver is started. */
const starters: Record<Engine['start'], Starter> = {
  /**
   * It says so when it listens. Only who knows its path is heard by its commands; its socket hears pages of this machine,
   * so it is where none of them gets.
   */
  'says its port': async ({ driver }, env, _folder, end, screen) => {
    const path = randomBytes(24).toString('hex');
    const asked = await unreachablePort();
    const started = running(driver, [`--port=${asked}`, `--url-base=/${path}`, '--log-level=SEVERE'], env);
    const port = await orEnded(started, driver, end, hears(started, /successfully on port (\d+)/));
    return new DriverProcess(started.child, `http://${loopback}:${port}/${path}`, end, screen);
  },
  /**
   * It has to be given a port, and says nothing: it is asked until it answers. It hears whoever finds it, so it listens
   * on an address of the loopback that no page can guess.
   */
  'is given a port': async ({ driver, moreArguments = () => [] }, env, _folder, end, screen) => {
    const host = secretLoopback();
    const port = await freePort(host);
    // Its browser's own sandbox cannot be had by root.
    const sandbox = process.getuid?.() === 0 ? { WEBKIT_DISABLE_SANDBOX_THIS_IS_DANGEROUS: '1' } : {};
    const more = await Promise.all(moreArguments().map(async (one) => one.replace('PORT', String(await freePort()))));
    const started = running(driver, [`--host=${host}`, `--port=${port}`, ...more], { ...env, ...sandbox });
    const base = `http://${host}:${port}`;
    const answers = async (): Promise<void> => {
      while (started.child.exitCode === null) {
        const answer = await fetch(`${base}/status`, { signal: AbortSignal.timeout(2000) }).catch(() => undefined);
        if (answer?.ok) return;
        await new Promise((done) => setTimeout(done, 20));
      }
    };
    await orEnded(started, driver, end, answers());
    return new DriverProcess(started.child, base, end, screen);
  },
  /** A browser that speaks BiDi itself, and gets a classic front of ours. */
  'is the browser': async ({ driver, version }, env, folder, end) => {
    const profile = firefoxProfile(folder);
    const args = ['--headless', '--no-remote', '--profile', profile, '--remote-debugging-port=0', 'about:blank'];
    const started = running(driver, args, env);
    const listeners: (() => void)[] = [];
    started.child.on('exit', () => {
      for (const listener of listeners) guarded('hearing that a browser ended', listener);
    });
    const firefox = new FirefoxEnd(started.child, version, listeners, end);
    const address = hears(started, /WebDriver BiDi listening on (ws:\/\/\S{1,200})/);
    await orEnded(
      started,
      driver,
      end,
      address.then((at) => firefox.connect(at)),
    );
    return firefox;
  },
};

interface Started {
  child: ChildProcess;
  said: () => string;
}

function running(program: string, args: string[], env: NodeJS.ProcessEnv): Started {
  const child = spawn(program, args, { env, stdio: ['ignore', 'pipe', 'pipe'], detached: true });
  let said = '';
  // What it says is read by whoever cares; unread, it would fill its pipe and stand still.
  const hear = (chunk: Buffer): void => void (said = (said + chunk.toString()).slice(-4000));
  child.stdout?.on('data', hear);
  child.stderr?.on('data', hear);
  child.on('error', (error) => trouble(`the driver ${program}`, error));
  return { child, said: () => said };
}

/** The first thing a pattern finds in what a program says. */
function hears({ child, said }: Started, pattern: RegExp): Promise<string> {
  return new Promise((done) => {
    const look = (): void => {
      const found = pattern.exec(said())?.[1];
      if (found === undefined) return;
      child.stdout?.off('data', look);
      child.stderr?.off('data', look);
      done(found);
    };
    child.stdout?.on('data', look);
    child.stderr?.on('data', look);
  });
}

/** What it comes to once the program is up; one that ends before, or says nothing for long, is a failure in words. */
async function orEnded<T>(
  { child, said }: Started,
  program: string,
  end: () => Promise<void>,
  up: Promise<T>,
): Promise<T> {
  let timer: NodeJS.Timeout | undefined;
  try {
    return await Promise.race([
      up,
      new Promise<never>((_, fail) => {
        const giveUp = (why: string): void => fail(new Error(`${program} did not start: ${why}`));
        timer = setTimeout(() => giveUp(`nothing heard for ${startLimitMs / 1000} s`), startLimitMs);
        child.on('error', (error) => giveUp(error.message));
        child.on('exit', () => giveUp(`${endedAtOnce}: ${said().trim()}`));
      }),
    ]);
  } catch (error) {
    await end();
    throw error;
  } finally {
    clearTimeout(timer);
  }
}
