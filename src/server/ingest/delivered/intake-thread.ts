import { parentPort, workerData } from 'node:worker_threads';
import { background } from '../../../core/background.ts';
import { Store } from '../../store/store.ts';
import { Intake } from './intake.ts';
import { rezone, type Rezone } from './rezone.ts';
import type { IntakeProgress } from './tools.ts';
import type { IntakeFields } from './report-attempts.ts';
import { fromPart, type Source } from './source.ts';

/** Where a file of a delivery lies in its spool. */
export interface SpooledFile {
  name: string;
  start: number;
  size: number;
  modifiedAt?: number;
}

/** A delivery as it is handed to the thread: parts of one open file, which the server closes. */
export interface IntakeJob {
  id: string;
  fd: number;
  files: SpooledFile[];
  fields: IntakeFields;
  /** Nothing is delivered: files of a run are set to another zone. */
  rezone?: Rezone;
}

const { home, env } = workerData as { home: string; env: NodeJS.ProcessEnv };
const store = new Store(home, 'thread');
// Large deliveries write much and read little of it again: room for the indexes, and fewer, larger checkpoints.
store.db.pragma('cache_size = -64000');
store.db.pragma('wal_autocheckpoint = 16000');

// Deliveries come one at a time; the server waits for the answer before it sends the next.
parentPort!.on('message', ({ id, fd, files, fields, rezone: zone }: IntakeJob) => {
  const progress = (now: IntakeProgress): void => parentPort!.postMessage({ id, progress: now });
  background('taking a delivery in', async () => {
    try {
      if (zone) {
        parentPort!.postMessage({ id, result: await rezone({ store, env, progress }, id, zone) });
        return;
      }
      const sources = files.map((file): Source => fromPart(fd, file));
      parentPort!.postMessage({ id, result: await new Intake(id, { store, env, progress }).run(sources, fields) });
    } catch (error) {
      parentPort!.postMessage({ id, problem: (error as Error).stack ?? String(error) });
    }
  });
});
