import type { EvidenceEvent } from '../../core/evidence/event.ts';

/** An event before it has its name. */
export type Unnumbered = EvidenceEvent extends infer E ? (E extends EvidenceEvent ? Omit<E, 'id'> : never) : never;
