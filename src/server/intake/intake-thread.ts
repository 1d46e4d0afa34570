import { parentPort, workerData } from 'node:worker_threads';
import { Store } from '../store/store.ts';
import { Intake } from './intake.ts';
import type { IntakeProgress } from './tools.ts';
import type { IntakeFields } from './report-attempts.ts';
import { fromPath, fromSpool, type Source } from './source.ts';
import { Spool } from './spool.ts';

/** A delivery as it is handed to the thread: open descriptors, or paths of this machine. */
export interface IntakeJob {
  id: string;
  files: ({ name: string; fd: number; size: number; modifiedAt?: number } | { name: string; path: string })[];
  fields: IntakeFields;
}

const { home, env } = workerData as { home: string; env: NodeJS.ProcessEnv };
const store = new Store(home, 'thread');
// Large deliveries write much and read little of it again: room for the indexes, and fewer, larger checkpoints.
store.db.pragma('cache_size = -64000');
store.db.pragma('wal_autocheckpoint = 16000');

// Deliveries come one at a time; the server waits for the answer before it sends the next.
parentPort!.on('message', ({ id, files, fields }: IntakeJob) => {
  const progress = (now: IntakeProgress): void => parentPort!.postMessage({ id, progress: now });
  void (async () => {
    try {
      const sources = files.map((file): Source =>
        'path' in file
          ? fromPath(file.path, file.name)
          : fromSpool(file.name, Spool.of(file.fd, file.size), file.modifiedAt),
      );
      parentPort!.postMessage({ id, result: await new Intake(id, { store, env, progress }).run(sources, fields) });
    } catch (error) {
      parentPort!.postMessage({ id, problem: (error as Error).stack ?? String(error) });
    }
  })();
});
