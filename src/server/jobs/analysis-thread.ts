import Database from 'better-sqlite3';
import { workerData } from 'node:worker_threads';
import { Blobs } from '../store/blobs.ts';
import { Events } from '../store/events.ts';
import { Sketches } from '../store/sketches.ts';
import { analyseStored, type Analysed } from '../ingest/analyse-stored.ts';
import type { AnalysisTask } from './analysis.ts';
import { answering } from './answering.ts';
import { beModest } from './stepping-back.ts';

// Reads the events of one attempt from the store and analyses them, off the server's thread.
beModest();
const { home } = workerData as { home: string };
const db = new Database(`${home}/iskel.sqlite`);
db.pragma('busy_timeout = 5000');
const shelves = { db, events: new Events(db), sketches: new Sketches(db), blobs: new Blobs(db, home, false) };

answering(({ attempt, priors }: AnalysisTask): Promise<Analysed> => analyseStored(shelves, attempt, priors));
