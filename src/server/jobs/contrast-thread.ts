import Database from 'better-sqlite3';
import { parentPort, workerData } from 'node:worker_threads';
import { contrastView } from '../../core/contrast/view.ts';
import { Sketches } from '../store/sketches.ts';
import type { ContrastTask } from './contrasts.ts';

// Holds attempts against each other off the server's thread: hundreds of them take a second.
const { home } = workerData as { home: string };
const db = new Database(`${home}/iskel.sqlite`, { readonly: true });
db.pragma('busy_timeout = 5000');
const sketches = new Sketches(db);

parentPort!.on('message', ({ ask, failing, passing }: ContrastTask) => {
  try {
    const [failed, passed] = [sketches.of(failing), sketches.of(passing)];
    parentPort!.postMessage({ ask, view: failed.length ? contrastView(failed, passed) : null });
  } catch (error) {
    parentPort!.postMessage({ ask, problem: (error as Error).stack ?? String(error) });
  }
});
