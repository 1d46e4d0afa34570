import { EventEmitter } from 'node:events';

/** Something changed that a screen may be showing. */
export type Change =
  | { type: 'run'; id: string }
  | { type: 'attempt'; id: string; runId: string; seriesId: string | null }
  | { type: 'series'; id: string }
  | { type: 'family'; id: string }
  | { type: 'drill'; id: string }
  /** How far a delivery is. */
  | { type: 'intake'; id: string; doing: string; done: number; of: number | null; ended?: boolean };

/** Tells every open page what changes, as it changes. */
export class Changes {
  private readonly emitter = new EventEmitter().setMaxListeners(0);

  tell(change: Change): void {
    this.emitter.emit('change', change);
  }

  /** Returns the call that ends listening. */
  listen(listener: (change: Change) => void): () => void {
    this.emitter.on('change', listener);
    return () => this.emitter.off('change', listener);
  }
}
