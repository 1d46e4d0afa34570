import { execFile } from 'node:child_process';
import { promisify } from 'node:util';

export interface Engine {
  name: 'chromium';
  version: string;
  driver: string;
}

const run = promisify(execFile);

async function versionOf(program: string): Promise<string | undefined> {
  try {
    const { stdout } = await run(program, ['--version'], { timeout: 10_000 });
    return /\d+(?:\.\d+)+/.exec(stdout)?.[0];
  } catch {
    return undefined;
  }
}

/** The engines that can be driven on this machine. */
export async function findEngines(): Promise<Engine[]> {
  const driver = process.env.ISKEL_CHROMEDRIVER ?? 'chromedriver';
  const version = await versionOf(driver);
  return version ? [{ name: 'chromium', version, driver }] : [];
}
