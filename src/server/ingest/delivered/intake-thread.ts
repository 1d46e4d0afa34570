import { parentPort, workerData } from 'node:worker_threads';
import { background } from '../../../core/background.ts';
import type { DeliveredFile } from '../../../core/records.ts';
import { Store } from '../../store/store.ts';
import { Intake } from './intake.ts';
import { rezone, type Rezone } from './rezone.ts';
import type { IntakeProgress } from './tools.ts';
import type { IntakeFields } from './report-attempts.ts';
import { openSealed, type Seal } from './sealed.ts';
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
  /** The delivery lies sealed on the disk, instead of in an open file. */
  seal?: Seal;
  /** Nothing is delivered: files of a run are set to another zone. */
  rezone?: Rezone;
}

const { home, env } = workerData as { home: string; env: NodeJS.ProcessEnv };
const store = new Store(home, 'thread');
// Large deliveries write much and read little of it again: a small cache, and fewer, larger checkpoints.
store.db.pragma('cache_size = -16000');
store.db.pragma('wal_autocheckpoint = 16000');

// Deliveries come one at a time; the server waits for the answer before it sends the next.
parentPort!.on('message', ({ id, fd, files, fields, rezone: zone, seal }: IntakeJob) => {
  const progress = (now: IntakeProgress): void => parentPort!.postMessage({ id, progress: now });
  // Many at a time: there may be thousands.
  let fates: DeliveredFile[] = [];
  let toldAt = 0;
  const tellFates = (): void => {
    if (fates.length) parentPort!.postMessage({ id, fates });
    fates = [];
    toldAt = Date.now();
  };
  const became = (file: DeliveredFile): void => {
    fates.push(file);
    if (Date.now() - toldAt > 150) tellFates();
  };
  background('taking a delivery in', async () => {
    let close = (): void => undefined;
    try {
      if (zone) {
        parentPort!.postMessage({ id, result: await rezone({ store, env, progress }, id, zone) });
        return;
      }
      let sources: Source[];
      if (seal) ({ sources, close } = openSealed(seal, files));
      else sources = files.map((file): Source => fromPart(fd, file));
      const intake = new Intake(id, { store, env, progress, became });
      const result = await intake.run(sources, fields);
      tellFates();
      parentPort!.postMessage({ id, result, passed: intake.passed });
    } catch (error) {
      parentPort!.postMessage({ id, problem: (error as Error).stack ?? String(error) });
    } finally {
      close();
    }
  });
});
