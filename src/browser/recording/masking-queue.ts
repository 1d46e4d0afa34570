import { guarded } from '../../core/background.ts';
import type { EvidenceEvent } from '../../core/evidence/event.ts';
import type { Masker } from '../../core/evidence/masking.ts';

/**
 * What a script was given is written this long after it, ms: by then the page has told whether it is in a password field
 * (looked at every 200 ms, and at everything that is done).
 */
const heldMs = 600;

/** Events as they came. They are masked when they are written, and not before it is known what is a secret in them. */
export class MaskingQueue {
  private raw: EvidenceEvent[] = [];
  private unmasked = 0;

  /** @param hasSecrets whether a page has told of a secret field that holds something */
  constructor(
    private readonly masker: Masker,
    private readonly hasSecrets: () => boolean,
  ) {}

  push(event: EvidenceEvent): void {
    this.raw.push(event);
  }

  get waiting(): boolean {
    return this.raw.length > 0;
  }

  /**
   * What may be written by now, masked. One event that cannot be masked costs itself only.
   * @param now ms from the start of the attempt
   */
  take(now: number): EvidenceEvent[] {
    const held: EvidenceEvent[] = [];
    const out: EvidenceEvent[] = [];
    for (const event of this.raw.splice(0)) {
      if ((event.until ?? event.at) > now - heldMs && now !== Infinity && this.mayHoldLearned(event)) {
        held.push(event);
        continue;
      }
      const clean = guarded('masking an event', () => this.masker.value(event));
      if (clean) out.push(clean);
      else this.unmasked++;
    }
    this.raw = held;
    return out;
  }

  /** How many events are missing, in words. */
  leftOut(): string[] {
    return this.unmasked ? [`${this.unmasked} events could not be masked and were left out`] : [];
  }

  /** A script's arguments and answers may be what a password field is about to hold; where there is one, anything may. */
  private mayHoldLearned({ lane, data }: EvidenceEvent): boolean {
    if (lane === 'step') return data.action === 'script' || data.action === 'read';
    return this.hasSecrets() && (lane === 'console' || lane === 'network' || lane === 'note');
  }
}
