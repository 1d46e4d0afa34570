import { guarded } from '../core/background.ts';
import type { Bidi } from './bidi.ts';
import type { BidiLink, BidiListener } from './bidi-link.ts';

/** Hands one connection to several: each hears all events, and closing one leaves the others. */
export class BidiShare {
  private readonly listeners = new Set<BidiListener>();
  private readonly closers = new Set<() => void>();

  constructor(private readonly bidi: () => Bidi) {}

  hear: BidiListener = (method, params, heard) => {
    for (const listener of this.listeners) guarded('hearing a browser', () => listener(method, params, heard));
  };

  closed(): void {
    for (const closer of this.closers) guarded('hearing that a browser is gone', closer);
  }

  link(listener: BidiListener, onClose: () => void): BidiLink {
    this.listeners.add(listener);
    this.closers.add(onClose);
    return {
      send: (method, params) => this.bidi().send(method, params),
      catchUp: () => this.bidi().catchUp(),
      close: () => {
        this.listeners.delete(listener);
        this.closers.delete(onClose);
      },
    };
  }
}
