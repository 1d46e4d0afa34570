import { EventEmitter } from 'node:events';

/** Something changed that a screen may be showing. */
export type Change =
  | { type: 'run'; id: string }
  | { type: 'attempt'; id: string; runId: string; seriesId: string | null }
  /** More was written down of an attempt that is being recorded. */
  | { type: 'evidence'; id: string }
  | { type: 'series'; id: string }
  | { type: 'mending'; id: string }
  | { type: 'again'; id: string }
  | { type: 'family'; id: string }
  | { type: 'drill'; id: string }
  | { type: 'delivery'; id: string }
  /** The standing rules were changed; their number. */
  | { type: 'rules'; id: string }
  /** Evidence is let go of. */
  | { type: 'keeping'; id: string }
  /** How far a delivery is. */
  | { type: 'intake'; id: string; doing: string; done: number; of: number | null; ended?: boolean };

/** Tells every open page what changes, as it changes. */
export class Changes {
  private readonly emitter = new EventEmitter().setMaxListeners(0);

  tell(change: Change): void {
    this.emitter.emit('change', change);
  }

  /** Whether anybody hears; what costs to be told need not be, where nobody does. */
  get heard(): boolean {
    return this.emitter.listenerCount('change') > 0;
  }

  /** Returns the call that ends listening. */
  listen(listener: (change: Change) => void): () => void {
    this.emitter.on('change', listener);
    return () => this.emitter.off('change', listener);
  }
}
