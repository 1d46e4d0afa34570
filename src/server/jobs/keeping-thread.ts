import { parentPort, workerData } from 'node:worker_threads';
import { levels, type Keeping } from '../../core/keeping/keeping.ts';
import { isSuspicious, planKeeping, type KeepingPlan, type LetGo } from '../../core/keeping/plan.ts';
import { letGoWords } from '../../core/keeping/words.ts';
import { isoOf } from '../../core/formats/times.ts';
import { Store } from '../store/store.ts';
import { answering } from './answering.ts';
import type { KeepingWait, KeptNow } from '../../core/keeping/told.ts';
import type { RunWeight } from '../../core/records.ts';
import type { KeepingQuestion } from './keeping.ts';

// Plans what is let go of, and lets go of it: in pieces of a few ms, so that what is recorded meanwhile has its turn.
const { home, freshMs } = workerData as { home: string; freshMs: number };
const store = new Store(home, 'thread');

/** So long others are kept from writing at a time, and left to it, ms. */
const pieceMs = 6;
const pauseMs = 5;
/** So much is removed in one step of it; so many attempts at a time. */
const step = { events: 40, files: 5, pages: 60 } as const;
const batch = 20;
/** What nothing names is given longer than what was named before, ms. */
const unnamedMs = 600_000;
/** What a budget was missed by is let go of in another round: sizes in a database are known only roughly. */
const mostRounds = 4;

let stopped = false;
parentPort!.on('message', (message: unknown) => {
  if (message === 'stop') stopped = true;
});

answering((question: KeepingQuestion): Promise<KeepingPlan | KeptNow | KeepingWait | RunWeight> => {
  if (question.about === 'plan') return Promise.resolve(planned(question.keeping));
  if (question.about === 'weigh run') return Promise.resolve(store.removal.weigh(question.run));
  if (question.about === 'remove run') return removed(question.run);
  stopped = false;
  return letGoOf(question.keeping, question.sure);
});

/**
 * Takes the steps of some work in transactions of a few ms, each with a pause in which others write and this thread hears.
 * A step must be able to be taken again: what was not committed when the power went is.
 */
async function inPieces(steps: Iterator<unknown>): Promise<void> {
  for (let more = true; more;) {
    more = store.together(() => {
      const end = performance.now() + pieceMs;
      do if (steps.next().done) return false;
      while (performance.now() < end);
      return true;
    });
    await new Promise((next) => setTimeout(next, pauseMs));
  }
}

const used = (): number => {
  const { files, database, free } = store.kept.folder();
  return files + database - free;
};

function planned(keeping: Keeping): KeepingPlan {
  const sizes = store.kept.sizes();
  return planKeeping(keeping, store.kept.all(), (file) => sizes.get(file) ?? 0, used(), Date.now());
}

async function letGoOf(keeping: Keeping, sure: boolean): Promise<KeptNow | KeepingWait> {
  const begun = used();
  const unfinished = store.kept.unfinished();
  for (let i = 0; i < unfinished.length && !stopped; i += batch) await clear(unfinished.slice(i, i + batch));
  await inPieces(sweep());
  let plan = planned(keeping);
  const { length: all } = store.kept.all();
  if (!sure && isSuspicious(plan.counts.attempts, all))
    return {
      why: 'share',
      words: `${plan.counts.attempts} of ${all} attempts would lose evidence at once. Nothing is let go of until you say so.`,
    };
  let attempts = 0;
  for (let round = 0; round < mostRounds && plan.letGo.length && !stopped; round++) {
    attempts += await carriedOut(plan.letGo);
    if (stopped || keeping.budgetGb === null || used() <= keeping.budgetGb * 1e9) break;
    plan = planned(keeping);
  }
  await shrink();
  const now = used();
  const short = keeping.budgetGb === null ? 0 : Math.max(0, now - keeping.budgetGb * 1e9);
  return { at: Date.now(), attempts, freed: Math.max(0, begun - now), short, stopped };
}

async function carriedOut(list: readonly LetGo[]): Promise<number> {
  let done = 0;
  for (; done < list.length && !stopped; done += batch) {
    const some = list.slice(done, done + batch);
    // Said first, and for good: only then is anything removed.
    store.together(() => some.forEach((one) => store.kept.lower(one, Date.now())));
    await clear(some.map(({ attempt }) => attempt));
    parentPort!.postMessage({ progress: { done: Math.min(done + batch, list.length), of: list.length } });
    await shrink(2);
  }
  return Math.min(done, list.length);
}

/** What was taken in later may belong to what is not written down yet: a delivery names its files when all are read, a recording at once. */
function takenBefore(): number {
  const reading = store.db.prepare("SELECT min(started_at) FROM intakes WHERE state = 'reading'").pluck().get() as
    number | null;
  return Math.min(Date.now() - freshMs, reading ?? Infinity);
}

/** Removes what of some attempts is no longer kept: their events, then the files that nobody else shows, then it is said. */
async function clear(attempts: readonly string[]): Promise<void> {
  // Read before anybody is kept from writing: what lies cold on the disk takes longer to come than to remove.
  for (const attempt of attempts) store.kept.warm(attempt);
  await inPieces(eventsOf(attempts));
  await inPieces(filesOf(attempts));
  await inPieces(told(attempts));
}

function* eventsOf(attempts: readonly string[]): Generator {
  for (const attempt of attempts) {
    const { level } = store.kept.of(attempt);
    if (level === levels.whole) continue;
    while (store.kept.removeEvents(attempt, level, step.events) === step.events) yield;
    yield;
  }
}

function* filesOf(attempts: readonly string[]): Generator {
  for (const attempt of attempts) {
    const { level } = store.kept.of(attempt);
    if (level === levels.whole) continue;
    for (let names = ['']; names.length;) {
      names = store.kept.giveUpFiles(attempt, level, step.files);
      store.blobs.release(names, takenBefore());
      yield;
    }
  }
}

function* told(attempts: readonly string[]): Generator {
  const { kept, events, find } = store;
  for (const attempt of attempts) {
    const { level, why, letGoAt } = kept.of(attempt);
    const one = store.attempts.get(attempt);
    if (level === levels.whole || !one) continue;
    const what = level === levels.findings ? 'Its evidence was' : 'Its pictures and videos were';
    const label = `${what} let go of on ${isoOf(letGoAt ?? 0).slice(0, 10)}: ${letGoWords[why ?? 'term']}.`;
    events.write(attempt, [
      { id: 'keeping', lane: 'note', kind: 'recorder', at: 0, clock: 'recorder', data: { label } },
    ]);
    if (level === levels.findings) {
      kept.emptied(attempt);
      const message = `${one.failure?.sentence ?? ''}\n${one.message}`;
      find.index(attempt, { message, console: '', request: '', step: '', note: '' });
    } else kept.put(attempt);
    yield;
  }
}

/** Removes a run with all that only it has, some attempts at a time. */
async function removed(run: string): Promise<RunWeight> {
  const weight = store.removal.weigh(run);
  for (let some = store.removal.some(run, batch); some.length; some = store.removal.some(run, batch)) {
    for (const attempt of some) store.kept.warm(attempt);
    await inPieces(wholly(some));
  }
  store.together(() => store.removal.finish(run));
  await shrink();
  return weight;
}

function* wholly(attempts: readonly string[]): Generator {
  for (const attempt of attempts) {
    while (store.kept.removeEvents(attempt, levels.findings, step.events) === step.events) yield;
    for (let names = ['']; names.length;) {
      names = store.kept.giveUpFiles(attempt, levels.findings, step.files);
      store.blobs.release(names, Date.now());
      yield;
    }
    store.removal.attempt(attempt);
    yield;
  }
}

/** Files that nothing names, of deliveries that were undone and of what broke off. */
function* sweep(): Generator {
  const before = takenBefore() - unnamedMs;
  for (let names = ['']; names.length && !stopped;) {
    names = store.blobs.unnamed(before, step.files);
    store.blobs.release(names, before);
    yield;
  }
}

/** Gives free pages of the database back to the disk, some at a time. @param most pieces */
async function shrink(most = Infinity): Promise<void> {
  // A large database of an older form cannot: what is free in it is used again.
  if (store.db.pragma('auto_vacuum', { simple: true }) !== 2) return;
  for (let i = 0; i < most && !stopped; i++) {
    const free = store.db.pragma('freelist_count', { simple: true }) as number;
    if (free === 0) return;
    store.db.pragma(`incremental_vacuum(${step.pages})`);
    await new Promise((next) => setTimeout(next, pauseMs));
    if ((store.db.pragma('freelist_count', { simple: true }) as number) >= free) return;
  }
}
