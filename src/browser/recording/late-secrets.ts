import { trouble } from '../../core/background.ts';
import type { EvidenceEvent } from '../../core/evidence/event.ts';
import type { EvidenceSink } from './sink.ts';

/** Secrets of an attempt that are looked for in what was written before they were known. */
const most = 50;

/** What a field turned out to hold after it was written elsewhere goes from there, too. Never rejects. */
export async function maskLate(
  sink: EvidenceSink,
  attempt: string,
  learned: readonly string[],
  clean: (event: EvidenceEvent) => EvidenceEvent,
): Promise<void> {
  // As it stands in JSON, and as in an address.
  const texts = learned
    .slice(0, most)
    .flatMap((one) => [...new Set([JSON.stringify(one).slice(1, -1), encodeURIComponent(one)])]);
  try {
    await sink.maskAgain?.(attempt, texts, clean);
  } catch (error) {
    trouble('masking what was learned late', error, attempt);
  }
}
