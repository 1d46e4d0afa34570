import type { EvidenceEvent } from '../../../core/evidence/event.ts';
import { zoneWords } from '../../../core/placing/zones.ts';
import type { EvidenceFile, IntakeResult } from '../../../core/records.ts';
import { freshEntry, type LooseEntry } from './loose-entry.ts';
import { HeldEvents, Shelf } from './held-events.ts';
import { eventsKept } from './materialise.ts';
import { placeEntries } from './place-loose.ts';
import type { LooseFile } from './read-loose.ts';
import type { IntakeTools } from './tools.ts';

/** Files of a run that are looked through. */
const mostFiles = 1_000_000;

export interface Rezone {
  runId: string;
  /** Minutes east of UTC. */
  minutes: number;
}

/**
 * Sets all files of a run whose times name no zone to one zone, as a person said, and places them anew; those placed by
 * hand stay where they are. Each file changes in one transaction: until then it is what it was.
 */
export async function rezone(tools: IntakeTools, id: string, { runId, minutes }: Rezone): Promise<IntakeResult> {
  const { store } = tools;
  const result: IntakeResult = { runId, attempts: 0, attached: 0, unmatched: [], problems: [] };
  const files = store.files
    .ofRun(runId, mostFiles)
    .filter(({ facts, placedBy, state }) => facts.zone && placedBy !== 'hand' && state !== 'put aside');
  const entries: LooseEntry[] = [];
  const shelf = new Shelf();
  for (const file of files) {
    const read = (): EvidenceEvent[] => eventsKept(store, file, -minutes * 60_000);
    const held = new HeldEvents(read());
    held.shelve(shelf, file.size, read);
    entries.push(freshEntry(asRead(file, held, minutes), file.id, file.blob));
  }
  if (!entries.length) return result;
  const placed = await placeEntries(
    {
      ...tools,
      id,
      runId,
      attachments: new Map(),
      again: true,
      tell: (doing, done, of) => tools.progress({ doing, done, of }),
      trouble: (name, message) => result.problems.push({ name, line: null, message }),
    },
    entries,
    minutes,
  );
  result.attached = placed.attached;
  result.unmatched = placed.waiting;
  return result;
}

/** A kept file as it was when it had just been read, in another zone. */
function asRead(file: EvidenceFile, events: HeldEvents, minutes: number): LooseFile {
  const { zone, doubt: _, skew, ...facts } = file.facts;
  const before = zone!.minutes * 60_000 - (skew?.ms ?? 0);
  const by = before - minutes * 60_000;
  return {
    name: file.name,
    kind: file.kind,
    blob: file.blob,
    size: file.size,
    mime: facts.mime ?? 'application/json',
    events,
    facts: {
      ...facts,
      ...(facts.from === undefined ? {} : { from: facts.from + by }),
      ...(facts.until === undefined ? {} : { until: facts.until + by }),
      zone: { minutes, how: 'asked', words: `read as ${zoneWords(minutes)}, as was asked for` },
    },
  };
}
