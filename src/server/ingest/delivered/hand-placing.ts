import type { Attempt, EvidenceFile } from '../../../core/records.ts';
import { clockOf, firstTiming, keptEvents, materialise } from './materialise.ts';
import type { Store } from '../../store/store.ts';

/**
 * Moves a file to an attempt, back to the tray, or aside. Its events follow it; nothing of it is lost.
 * @returns the attempts whose evidence changed
 */
export async function placeByHand(
  store: Store,
  file: EvidenceFile,
  attempt: Attempt | undefined,
  aside: boolean,
): Promise<string[]> {
  const { skew, zone } = file.facts;
  const held = await keptEvents(store, file, (skew?.ms ?? 0) - (zone?.minutes ?? 0) * 60_000);
  const timing = attempt && firstTiming(file, attempt);
  store.together(() => {
    if (file.attemptId) store.events.removeClock(file.attemptId, clockOf(file.id));
    if (attempt) store.events.write(attempt.id, materialise(file, held, attempt, timing!));
    store.files.place(file.id, {
      state: attempt ? 'placed' : aside ? 'put aside' : 'waiting',
      attemptId: attempt?.id ?? null,
      score: attempt ? 1 : (file.candidates[0]?.score ?? 0),
      reasons: attempt ? ['placed by hand'] : (file.candidates[0]?.reasons ?? []),
      placedBy: attempt ? 'hand' : '',
      offsetMs: timing?.offsetMs ?? null,
      offsetWithin: timing?.within ?? null,
      offsetHow: timing?.how ?? '',
    });
  });
  return [...new Set([file.attemptId, attempt?.id].filter((id) => id !== undefined && id !== null))];
}

/** Sets a placed file's offset by hand; its events move by the difference. */
export function nudge(store: Store, file: EvidenceFile, offsetMs: number): void {
  store.together(() => {
    store.events.shiftClock(file.attemptId!, clockOf(file.id), offsetMs - (file.offsetMs ?? 0));
    store.files.place(file.id, { ...file, offsetMs, offsetWithin: null, offsetHow: 'set by hand' });
  });
}
