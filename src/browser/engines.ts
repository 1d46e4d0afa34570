import { execFile } from 'node:child_process';
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { abilitiesOf, type Abilities } from './abilities.ts';
import { chromiumLaunch, firefoxLaunch, webkitLaunch, type Launch } from './recording/launch-options.ts';
import type { EngineName } from './engine-names.ts';
import { withoutOurs, type Owner } from './owner.ts';
import { startScreen } from './virtual-screen.ts';

export interface Engine {
  name: EngineName;
  version: string;
  /** The program that is started: a driver, or the browser itself. */
  driver: string;
  start: 'says its port' | 'is given a port' | 'is the browser';
  /** Whether nobody but us can begin a session with a driver that stands ready. */
  guarded: boolean;
  abilities: Abilities;
  /** What it makes of launch options. */
  launch: Launch;
  /** The browser the driver starts, where it has to be told. */
  browser?: string;
  /** The program that makes a screen for it, where it needs one. */
  screen?: string;
  /** Arguments besides its port; `PORT` in them stands for one more free port. */
  moreArguments?: () => string[];
}

const run = promisify(execFile);

async function versionOf(
  program: string,
  env: NodeJS.ProcessEnv = withoutOurs(process.env),
): Promise<string | undefined> {
  try {
    const { stdout } = await run(program, ['--version'], { timeout: 10_000, env });
    return /\d{1,6}(?:\.\d{1,6}){1,5}/.exec(stdout)?.[0];
  } catch {
    return undefined;
  }
}

/** The engines that can be driven on this machine. */
export async function findEngines(owner: Owner): Promise<Engine[]> {
  const found = await Promise.all([findChromium(), findFirefox(), findWebkit(owner)]);
  return found.filter((engine) => engine !== undefined);
}

async function findChromium(): Promise<Engine | undefined> {
  const driver = process.env.ISKEL_CHROMEDRIVER ?? 'chromedriver';
  const version = await versionOf(driver);
  return version ? chromiumBy(driver, version) : undefined;
}

/** Chromium by its driver. */
export const chromiumBy = (driver: string, version: string): Engine => ({
  name: 'chromium',
  version,
  driver,
  start: 'says its port',
  guarded: true,
  abilities: abilitiesOf.chromium,
  launch: chromiumLaunch,
});

/** A driver of its own where somebody has put one on the path; else the browser, by its own protocol. */
async function findFirefox(): Promise<Engine | undefined> {
  const gecko = process.env.ISKEL_GECKODRIVER ?? 'geckodriver';
  for (const browser of process.env.ISKEL_FIREFOX ? [process.env.ISKEL_FIREFOX] : ['firefox-esr', 'firefox']) {
    const version = await versionOf(browser);
    if (!version) continue;
    if (await versionOf(gecko))
      return {
        name: 'firefox',
        version,
        driver: gecko,
        start: 'is given a port',
        guarded: false,
        abilities: abilitiesOf.firefox,
        launch: firefoxLaunch,
        moreArguments: () => ['--websocket-port=PORT'],
      };
    return {
      name: 'firefox',
      version,
      driver: browser,
      start: 'is the browser',
      guarded: true,
      abilities: abilitiesOf.firefox,
      launch: firefoxLaunch,
    };
  }
  return undefined;
}

/** Where the distributions put the small browser that WebKit's driver starts. */
const miniBrowsers = ['x86_64-linux-gnu', 'aarch64-linux-gnu', ''].flatMap((arch) =>
  ['4.1', '4.0', 'gtk-6.0'].map((api) => join('/usr/lib', arch, `webkit2gtk-${api}`, 'MiniBrowser')),
);

async function findWebkit(owner: Owner): Promise<Engine | undefined> {
  const driver = process.env.ISKEL_WEBKITDRIVER ?? 'WebKitWebDriver';
  const browser = process.env.ISKEL_MINIBROWSER ?? miniBrowsers.find((path) => existsSync(path));
  if (!browser || !(await isProgram(driver))) return undefined;
  // The browser tells its version only where it has a screen.
  const { mark, folder, env } = owner.next();
  const screen = await startScreen('Xvfb', folder, env).catch(() => undefined);
  const version = await versionOf(browser, { ...env, ...screen?.env });
  await screen?.close();
  await owner.end(mark, folder);
  return version
    ? {
        name: 'webkit',
        version,
        driver,
        start: 'is given a port',
        guarded: false,
        abilities: { ...abilitiesOf.webkit, screen: screen !== undefined },
        launch: webkitLaunch(browser),
        browser,
        ...(screen ? { screen: 'Xvfb' } : {}),
      }
    : undefined;
}

/** Whether a program can be started at all; its own answer to `--help` does not matter. */
async function isProgram(program: string): Promise<boolean> {
  try {
    await run(program, ['--help'], { timeout: 10_000, env: withoutOurs(process.env) });
    return true;
  } catch (error) {
    return typeof (error as { code?: unknown }).code === 'number';
  }
}
