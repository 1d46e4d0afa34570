import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { freePort } from '../src/browser/free-port.ts';
import { program } from './helpers.ts';

/** The demo as its users start it, on a data folder of its own and any free port. */
export async function startDemo(
  env: Record<string, string> = {},
): Promise<{ address: string; site: string; stop(): Promise<void> }> {
  // The shop has a port of its own, so that tests beside these find theirs.
  const sitePort = String(await freePort());
  const data = mkdtempSync(join(tmpdir(), 'iskel-screens-'));
  const demo = spawn(process.execPath, program('demo/serve.ts'), {
    env: {
      ...process.env,
      ISKEL_DATA: data,
      ISKEL_PORT: '0',
      ISKEL_HOST: '127.0.0.1',
      ISKEL_TOKEN: '',
      ISKEL_DEMO_SITE_PORT: sitePort,
      ...env,
    },
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  let said = '';
  const address = await new Promise<string>((done, fail) => {
    demo.stdout.on('data', (chunk: Buffer) => {
      said += chunk.toString();
      const found = /Iskel is at (\S+)/.exec(said)?.[1];
      if (found) done(found);
    });
    demo.on('exit', (code) => fail(new Error(`the demo ended with ${code}`)));
  });
  const stop = async (): Promise<void> => {
    demo.removeAllListeners('exit');
    const ended = new Promise((done) => demo.once('exit', done));
    demo.kill('SIGTERM');
    await ended;
    rmSync(data, { recursive: true, force: true });
  };
  return { address, site: /Lodos Ferries is at (\S+)/.exec(said)?.[1] ?? '', stop };
}
