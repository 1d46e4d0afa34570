import { background } from '../core/background.ts';
import { watchForFaults } from './last-resort.ts';
import { makeLog } from './log.ts';
import { startServer } from './server.ts';
import { readSettings } from './settings.ts';

// The server as a program: settings from the environment, the address on standard output.
try {
  const log = makeLog(process.env.ISKEL_LOG ?? 'warn');
  watchForFaults(log);
  const running = await startServer(readSettings(process.env), log);
  console.log(`Iskel is at ${running.address}`);
  console.log(`Record through ${running.address}/wd`);
  const stop = (): void =>
    background(
      'closing the server',
      running.close().finally(() => process.exit(0)),
    );
  process.on('SIGINT', stop);
  process.on('SIGTERM', stop);
  process.on('SIGHUP', stop);
} catch (error) {
  console.error(`Iskel could not start: ${(error as Error).message}`);
  process.exit(1);
}
