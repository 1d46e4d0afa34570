// Iskel with the demo's runs loaded, and the ferry shop they were recorded on, so that drills play.
import { closeSync, openSync, readdirSync, readFileSync, statSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { importPack } from '../src/server/exports/packs.ts';
import { startServer } from '../src/server/server.ts';
import { readSettings } from '../src/server/settings.ts';
import { demoPort, faultyTests } from './faults.ts';
import { startFerrySite } from './site/site.ts';

/** The recorded runs: those of the ferry shop, and a small part of the yard. */
const folders = ['./data/', './yard/data/'].map((name) => fileURLToPath(new URL(name, import.meta.url)));
const left = fileURLToPath(new URL('./left/ferry-evening.tar.gz', import.meta.url));

try {
  const settings = readSettings(process.env);
  const sitePort = Number(process.env.ISKEL_DEMO_SITE_PORT) || demoPort;
  // The team's own test command; elsewhere it stands in the settings file.
  settings.local.commands.push({
    name: 'ferry suite',
    program: process.execPath,
    args: ['--import', 'tsx', fileURLToPath(new URL('./suite/again.ts', import.meta.url))],
    folder: fileURLToPath(new URL('../', import.meta.url)),
    environment: { FERRY_ADDRESS: `http://127.0.0.1:${sitePort}` },
    reports: [],
    minutes: 10,
  });
  const server = await startServer(settings);
  for (const folder of folders) {
    const packs = readdirSync(folder)
      .filter((name) => name.endsWith('.iskel.zip'))
      .sort();
    for (const name of packs)
      await importPack(server.services.store, server.services.analysis, readFileSync(folder + name));
  }
  // What another runner left behind; taken in as a delivery is, once.
  if (!server.services.store.runs.byName('evening-12')) {
    const fd = openSync(left, 'r');
    await server.services.intakes.take(
      { fd, close: () => closeSync(fd) },
      [{ name: 'ferry-evening.tar.gz', start: 0, size: statSync(left).size, modifiedAt: statSync(left).mtimeMs }],
      { run: 'evening-12', labels: { commit: 'b20d77aa31', branch: 'main' } },
    );
  }
  // The shop hurts one visit in ten, as flakes do: a drill meets it now and then, and a search on demand.
  const site = await startFerrySite(sitePort).catch((error: Error) => {
    console.log(`The ferry shop could not be opened (${error.message}); looking works, replaying needs its port free.`);
    return undefined;
  });
  for (const { fault, path } of faultyTests) site?.visits.stand(path, [fault], 0.1);
  if (site) console.log(`Lodos Ferries is at ${site.address}`);
  console.log(`Iskel is at ${server.address}`);
  const stop = (): void => void Promise.all([server.close(), site?.close()]).then(() => process.exit(0));
  for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'] as const) process.on(signal, stop);
} catch (error) {
  console.error(`The demo could not start: ${(error as Error).message}`);
  process.exit(1);
}
