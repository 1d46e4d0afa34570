import { workerData } from 'node:worker_threads';
import { writeConsole } from '../../core/formats/console-text.ts';
import { writeCsv } from '../../core/formats/csv.ts';
import { writeHar } from '../../core/formats/har.ts';
import { writeJunit } from '../../core/formats/junit-write.ts';
import { isoOf } from '../../core/formats/times.ts';
import { writeVtt } from '../../core/formats/vtt.ts';
import type { Attempt } from '../../core/records.ts';
import { classify } from '../ingest/delivered/classify.ts';
import { readLoose, type ReadFile } from '../ingest/delivered/read-loose.ts';
import { fromBytes } from '../ingest/delivered/source.ts';
import { readinessKept, readinessWhereEnded } from '../store/readiness-kept.ts';
import { Store } from '../store/store.ts';
import { answering } from './answering.ts';
import type { DeskQuestion, Form, RunForm } from './evidence-desk.ts';
import { writeHandOver } from '../exports/hand-over.ts';
import { outlookCsv } from '../exports/outlook.ts';
import { historyOf, historyOfFamily, historyOfTest } from '../exports/histories.ts';
import { exportPack } from '../exports/packs.ts';
import { previewOf } from './rules-preview.ts';

// Reads one file, or writes one attempt, at a time.
const { home, env } = workerData as { home: string; env: NodeJS.ProcessEnv };
const store = new Store(home, 'thread');

answering((question: DeskQuestion): Promise<unknown> | unknown => {
  if (question.about === 'file') return read(question);
  if (question.about === 'history') {
    const { test, family, order } = question;
    if (family !== undefined) return historyOfFamily(store, family, order);
    return test === undefined ? historyOf(store, order) : historyOfTest(store, test, order);
  }
  if (question.about === 'outlook') return outlookCsv(store.outlooks.list(question.asked).tests);
  if (question.about === 'readiness') {
    if (question.attempt === undefined) return readinessKept(store.db);
    const page = readinessWhereEnded(store.db, store.sketches.of([question.attempt])[0]);
    return page ? [page] : [];
  }
  if (question.about === 'rules') return previewOf(store, question.rules);
  const { id, version } = question;
  if (question.about === 'hand-over') return writeHandOver(store, id, version, question.order, env);
  return written(question.about, id, version);
});

function read(question: Extract<DeskQuestion, { about: 'file' }>): ReadFile | { refused: string } {
  try {
    const source = fromBytes(question.name, Buffer.from(question.bytes));
    const kind = classify(source);
    if (['zip', 'gzip', 'tar', 'junit', 'tap', 'unknown', 'empty', 'xml'].includes(kind))
      return {
        refused:
          'a picture, a video, a HAR, a trace, a log or another text is taken here; reports and archives go to /api/intake',
      };
    const masker = store.rules.masker(question.secrets);
    return readLoose(source, kind, masker, { day: question.day });
  } catch (error) {
    return { refused: (error as Error).message };
  }
}

/** Most lines of one attempt in the console of a run. */
const mostLines = 20_000;

const csvHead = [
  'suite',
  'test',
  'environment',
  'attempt',
  'outcome',
  'started',
  'seconds',
  'family',
  'sentence',
  'cause',
  'against the rules',
  'id',
];
const csvRow = (one: Attempt): (string | number | null)[] => [
  one.test.suite,
  one.test.title,
  one.environment.key,
  one.number,
  one.outcome,
  isoOf(one.startedAt),
  one.durationMs / 1000,
  one.familyId,
  one.failure?.sentence ?? null,
  one.leading?.cause ?? null,
  one.against ? one.against.breaches.map(({ words }) => words).join('; ') : null,
  one.id,
];

/** The console of all attempts of a run, one after the other, each under its test's name. */
const consoleOfRun = (attempts: readonly Attempt[]): string =>
  attempts
    .map((one) => {
      const text = writeConsole(store.events.ofLanes(one.id, ['console'], mostLines), one.startedAt);
      const name = [one.test.suite, one.test.title].filter(Boolean).join(' / ');
      return text && `# ${name}, attempt ${one.number}, ${one.environment.key}: ${one.outcome}\n${text}\n`;
    })
    .join('');

async function written(form: Form | RunForm, id: string, version: string): Promise<Uint8Array | undefined> {
  if (form === 'pack') return exportPack(store, id);
  if (form === 'junit' || form === 'table' || form === 'run-console') {
    const run = store.runs.get(id);
    if (!run) return undefined;
    const attempts = store.attempts.ofRun(id);
    if (form === 'run-console') return Buffer.from(consoleOfRun(attempts));
    return Buffer.from(form === 'junit' ? writeJunit(run, attempts) : writeCsv(csvHead, attempts.map(csvRow)));
  }
  const attempt = store.attempts.get(id);
  if (!attempt) return undefined;
  const events = store.events.recorded(id);
  if (form === 'har') return Buffer.from(writeHar(events, attempt.startedAt, attempt.test.title, version));
  if (form === 'console') return Buffer.from(writeConsole(events, attempt.startedAt));
  const video = store.files.ofAttempt(id).find((one) => one.kind === 'video');
  return Buffer.from(writeVtt(events, video?.offsetMs ?? 0));
}
