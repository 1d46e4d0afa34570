import Database from 'better-sqlite3';
import { workerData } from 'node:worker_threads';
import { analyse } from '../../core/analyse.ts';
import { findWords } from '../../core/evidence/find-words.ts';
import { Blobs } from '../store/blobs.ts';
import { Events } from '../store/events.ts';
import { neighboursOf } from '../store/neighbours.ts';
import { Sketches } from '../store/sketches.ts';
import type { AnalysisTask, Analysed } from './analysis.ts';
import { answering } from './answering.ts';
import { lookAtFailure } from './look.ts';

// Reads the events of one attempt from the store and analyses them, off the server's thread.
const { home } = workerData as { home: string };
const db = new Database(`${home}/iskel.sqlite`);
db.pragma('busy_timeout = 5000');
const events = new Events(db);
const sketches = new Sketches(db);
const blobs = new Blobs(db, home, false);

answering(async ({ id, facts, about, priors }: AnalysisTask): Promise<Analysed> => {
  const recorded = events.recorded(id);
  const neighbours = neighboursOf(db, id);
  const fails = facts.outcome === 'failed' || facts.outcome === 'errored';
  const look = fails ? await lookAtFailure(recorded, (blob) => blobs.read(blob)) : undefined;
  const analysis = analyse(recorded, facts, {
    id,
    startedAt: about.startedAt,
    ...(about.commit ? { commit: about.commit } : {}),
    ...(neighbours ? { neighbours } : {}),
    ...(look ? { look } : {}),
    priors,
    kin: (family) => sketches.ofFamily(family, about.test, id),
    passing: sketches.baseline(about.test, id, about.environmentKey),
  });
  return { analysis, words: findWords(recorded, facts.message, analysis.failure?.sentence ?? '') };
});
