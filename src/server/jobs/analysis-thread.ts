import Database from 'better-sqlite3';
import { parentPort, workerData } from 'node:worker_threads';
import { analyse } from '../../core/analyse.ts';
import { findWords } from '../../core/evidence/find-words.ts';
import { Events } from '../store/events.ts';
import { Sketches } from '../store/sketches.ts';
import type { AnalysisTask } from './analysis.ts';

// Reads the events of one attempt from the store and analyses them, off the server's thread.
const { home } = workerData as { home: string };
const db = new Database(`${home}/iskel.sqlite`);
db.pragma('busy_timeout = 5000');
const events = new Events(db);
const sketches = new Sketches(db);

parentPort!.on('message', ({ id, facts, about, priors }: AnalysisTask) => {
  try {
    const recorded = events.recorded(id);
    const analysis = analyse(recorded, facts, {
      id,
      startedAt: about.startedAt,
      ...(about.commit ? { commit: about.commit } : {}),
      priors,
      passing: sketches.baseline(about.test, id, about.environmentKey),
    });
    const words = findWords(recorded, facts.message, analysis.failure?.sentence ?? '');
    parentPort!.postMessage({ id, analysis, words });
  } catch (error) {
    parentPort!.postMessage({ id, problem: (error as Error).stack ?? String(error) });
  }
});
