import { workerData } from 'node:worker_threads';
import { boundSpool, readyIn, type Ready } from '../../browser/devtools/spool.ts';
import type { EvidenceEvent } from '../../core/evidence/event.ts';
import { readPackedAttempt } from '../../core/formats/packed-attempt.ts';
import { readStored } from '../../core/evidence/streamed.ts';
import { restore } from '../exports/packs.ts';
import { answering } from '../jobs/answering.ts';
import { Store } from '../store/store.ts';
import { earlierReport, tellRecorded } from './delivered/tell-recorded.ts';

// Takes in what `iskel browser` recorded on this machine while no server answered: file by file, so that an attempt of any
// size needs no more memory than its largest picture.

/** One look into the spool. */
export interface SpoolQuestion {
  /** Address of this server, as those who record for it know it. */
  address: string;
  /** Attempts that wait for another try. */
  notYet: string[];
  /** Attempts that are tried for the last time. */
  last: string[];
}

export interface SpoolLook {
  /** Taken in, and others of which reports had told already. */
  brought: string[];
  failed: { id: string; why: string; setAside: boolean }[];
}

/** So many events are masked and written at a time. */
const batch = 500;
/** Events of one attempt take no more, as those recorded here. */
const mostBytes = 512 * 1024 ** 2;

const { home, folder } = workerData as { home: string; folder: string };
const store = new Store(home, 'thread');

answering(async ({ address, notYet, last }: SpoolQuestion): Promise<SpoolLook> => {
  const brought: string[] = [];
  const failed: SpoolLook['failed'] = [];
  boundSpool(folder);
  for (const one of readyIn(folder)) {
    if (one.to !== address || notYet.includes(one.id)) continue;
    try {
      const { id, isNew } = await takenIn(one);
      if (isNew) brought.push(id);
      one.remove();
    } catch (error) {
      const why = (error as Error).message;
      if (last.includes(one.id)) one.setAside(why);
      failed.push({ id: one.id, why, setAside: last.includes(one.id) });
    }
  }
  if (brought.length) brought.push(...tellRecorded(store, null, () => earlierReport, brought).shared);
  return { brought, failed };
});

function takenIn(one: Ready): Promise<{ id: string; isNew: boolean }> {
  if (one.size > mostBytes) throw new Error('its events have more than 512 MiB; no attempt is as large');
  const attempt = readPackedAttempt(one.attempt());
  return restore(
    store,
    { attempt, events: inBatches(one.events(), attempt.startedAt), blobs: one.blobs() },
    store.rules.masker(),
  );
}

/** A line that is no event costs itself only: whoever wrote it may have been killed at it. */
function* inBatches(events: Iterable<EvidenceEvent>, startedAt: number): Generator<EvidenceEvent[]> {
  let part: EvidenceEvent[] = [];
  for (const raw of events) {
    try {
      part.push(readStored(raw, startedAt));
    } catch {
      continue;
    }
    if (part.length < batch) continue;
    yield part;
    part = [];
  }
  if (part.length) yield part;
}
