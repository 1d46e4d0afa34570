import type { EvidenceEvent } from '../../../core/evidence/event.ts';
import { shifted } from './materialise.ts';

/**
 * The events of a file that is being placed. Once its bytes are kept they need not be held: a large delivery has more than
 * fit into memory, so they are read again when they are asked for.
 */
export class HeldEvents {
  private held: readonly EvidenceEvent[] | undefined;
  private by = 0;
  private shelf: Shelf | undefined;
  private load: () => readonly EvidenceEvent[] = () => [];

  constructor(events: readonly EvidenceEvent[]) {
    this.held = events;
  }

  /** All of them, set on the clock that was settled so far. */
  get all(): readonly EvidenceEvent[] {
    this.held ??= this.by ? shifted(this.load(), this.by) : this.load();
    this.shelf?.used(this);
    return this.held;
  }

  /** Sets them so much later, ms. */
  shift(by: number): void {
    this.by += by;
    if (this.held) this.held = shifted(this.held, by);
  }

  /** From now on they may be let go. @param size of what they are read from, bytes */
  shelve(shelf: Shelf, size: number, load: () => readonly EvidenceEvent[]): void {
    if (!this.held?.length) return;
    this.load = load;
    this.shelf = shelf;
    this.size = size;
    shelf.used(this);
  }
  size = 0;

  letGo(): void {
    this.held = undefined;
  }
}

/** Holds the events that were used last, up to so many bytes of what they are read from. */
export class Shelf {
  /** In the order they were used last. */
  private readonly held = new Set<HeldEvents>();
  private size = 0;
  constructor(private readonly most = 6 * 1024 ** 2) {}

  used(one: HeldEvents): void {
    if (this.held.delete(one)) this.size -= one.size;
    this.held.add(one);
    this.size += one.size;
    for (const oldest of this.held) {
      if (this.size <= this.most || oldest === one) return;
      this.held.delete(oldest);
      this.size -= oldest.size;
      oldest.letGo();
    }
  }
}
