import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import type { Logger } from 'pino';
import { DriverPool } from '../browser/driver-pool.ts';
import { findEngines } from '../browser/engines.ts';
import { Owner } from '../browser/owner.ts';
import { Places } from '../browser/places.ts';
import { RemotePlace } from '../browser/remote-place.ts';
import { RecordingEndpoint } from '../browser/recording/endpoint.ts';
import type { Services } from './api/context.ts';
import { makeApp } from './app.ts';
import { Changes } from './changes.ts';
import { background, tellTroubles } from '../core/background.ts';
import { DataLock } from './data-lock.ts';
import { faults } from './last-resort.ts';
import { listen } from './listen.ts';
import { makeLog, maskLog } from './log.ts';
import { AgainJobs } from './jobs/agains.ts';
import { AnalysisJobs } from './jobs/analysis.ts';
import { Contrasts } from './jobs/contrasts.ts';
import { DeliveryJobs } from './jobs/deliveries.ts';
import { MendingJobs } from './jobs/mendings.ts';
import { EvidenceDesk } from './jobs/evidence-desk.ts';
import { IntakeJobs } from './jobs/intakes.ts';
import { RecordingSink } from './ingest/recorded.ts';
import { Spooled } from './ingest/spooled.ts';
import { Streamed } from './ingest/streamed.ts';
import { ToldByReporters } from './ingest/told-by-reporters.ts';
import { KeepingJobs } from './jobs/keeping.ts';
import { RulingJobs } from './jobs/ruling.ts';
import { SeriesJobs } from './jobs/series.ts';
import type { Settings } from './settings.ts';
import { Store } from './store/store.ts';

const web = fileURLToPath(new URL('../../dist/web', import.meta.url));
const version = (
  JSON.parse(readFileSync(new URL('../../package.json', import.meta.url), 'utf8')) as { version: string }
).version;

export interface RunningServer {
  address: string;
  services: Services;
  close(): Promise<void>;
}

/** Starts Iskel on its data folder; what an earlier server left unfinished is put in order first. */
export async function startServer(settings: Settings, log: Logger = makeLog('warn')): Promise<RunningServer> {
  const lock = DataLock.take(settings.data);
  tellTroubles(({ what, error, about }) =>
    log.error({ about, problem: error.stack ?? error.message }, `${what} failed`),
  );
  const owner = await Owner.start(settings.data);
  const finding = findEngines(owner);
  const store = new Store(settings.data);
  const mended = await store.mend();
  if (mended) log.warn(`${mended} pictures were not written whole when the machine stopped; their attempts say so`);
  const changes = new Changes();
  const analysis = new AnalysisJobs(store, changes, log);
  const ruling = new RulingJobs(store, changes);
  const keeping = new KeepingJobs(store, changes);
  const contrasts = new Contrasts(settings.data);
  const desk = new EvidenceDesk(settings.data, owner.next().env);
  const engines = await finding;
  const places = new Places([
    ...engines.map((engine) => new DriverPool(engine, owner)),
    ...settings.local.places.map((place) => new RemotePlace(place)),
  ]);
  const sink = new RecordingSink(store, analysis, changes, settings.local.bodies, settings.local.traces ?? []);
  const unmask = maskLog((line) => sink.withoutSecrets(line));
  const intakes = new IntakeJobs(store, changes, owner, log, analysis);
  await intakes.tidied;
  const deliveries = new DeliveryJobs(store, intakes, changes);
  const streaming = new Set(store.attempts.streaming());
  for (const id of store.attempts.inState('recording').filter((one) => !streaming.has(one)))
    sink.end(id, store.events.lastTime(id), 'Iskel was stopped while it recorded this');
  analysis.resume();
  const series = new SeriesJobs(store, analysis, changes, places, settings.local.bodies, settings, log);
  const mendings = new MendingJobs(store, contrasts, series, changes);
  const agains = new AgainJobs({
    store,
    owner,
    intakes,
    changes,
    commands: settings.local.commands,
    unsecret: (text) => sink.withoutSecrets(text),
    token: settings.token,
  });
  const endpoint = new RecordingEndpoint({ places, sink, anyLaunch: settings.anyLaunch, idleMs: settings.idleMs });
  const streamed = new Streamed(store, sink, changes, desk);
  const toldByReporters = new ToldByReporters(store, changes, (id) => analysis.settle(id));
  const spooled = new Spooled(store, (id) => analysis.settle(id), log);
  const services: Services = {
    version,
    places,
    store,
    owner,
    changes,
    analysis,
    contrasts,
    mendings,
    agains,
    desk,
    series,
    ruling,
    keeping,
    intakes,
    deliveries,
    streamed,
    toldByReporters,
    sink,
    spooled,
    settings,
    log,
    faults,
  };
  const server = listen(settings, makeApp(services, web).fetch, endpoint);
  await new Promise<void>((done, fail) => {
    server.once('error', fail);
    server.listen(settings.port, settings.host, done);
  });
  const [first] = places.local;
  if (first) background('starting a driver ahead', first.ready());
  background('tidying the data folder', tidy(store, log));
  const port = (server.address() as { port: number }).port;

  const address = `http://${settings.host.includes(':') ? `[${settings.host}]` : settings.host}:${port}`;
  agains.address = address;
  spooled.begin(address);

  let closing: Promise<void> | undefined;
  const close = (): Promise<void> =>
    (closing ??= (async () => {
      server.close();
      await spooled.close();
      await agains.close();
      await endpoint.close('Iskel was stopped while it recorded this');
      await series.close();
      await places.close();
      await owner.close();
      streamed.close();
      toldByReporters.close();
      await deliveries.close();
      await intakes.close();
      await analysis.close();
      mendings.close();
      await ruling.close();
      await keeping.close();
      await contrasts.close();
      await desk.close();
      server.closeAllConnections();
      store.close();
      unmask();
      lock.release();
    })());
  return {
    address,
    services,
    close,
  };
}

/** Files nobody names go, in the background: what a killed server wrote before it could say so. */
async function tidy(store: Store, log: Logger): Promise<void> {
  const removed = await store.blobs.sweepOrphans();
  if (removed) log.info(`${removed} files that no evidence names were removed`);
}
