import { asError, trouble } from '../../core/background.ts';

/** How long what could not be written is kept and tried again, before evidence is given up. */
export const patienceMs = 30_000;
/** Most that waits to be written meanwhile, as counted by who sends it. */
const mostWaiting = 50_000;
/** Once evidence was given up: what an attempt was, how it ended and why it broke off is tried for longer. */
const lastPatienceMs = 10 * 60_000;
const firstPauseMs = 80;
const longestPauseMs = 500;

interface Parcel {
  what: string;
  weight: number;
  work: () => void;
}

/**
 * Hands things on in their order, at once where that works. What fails (a full disk, a locked database) is kept and
 * tried again within bounds, so that a moment's trouble loses nothing; beyond them the evidence that waits is given
 * up, with the reason, and only what is light goes on being tried.
 */
export class Outbox {
  private readonly waiting: Parcel[] = [];
  private weight = 0;
  private timer: NodeJS.Timeout | undefined;
  private failingSince: number | undefined;
  private pauseMs = firstPauseMs;
  private readonly empty: (() => void)[] = [];
  /** Why evidence was given up; nothing where none was. */
  broken: string | undefined;

  /** @param about what it belongs to, for troubles that are told */
  constructor(private readonly about: string) {}

  /**
   * Does a piece of work, now or when it becomes possible.
   * @param weight of what is lost when it is given up; 0 for what must not be
   */
  send(what: string, work: () => void, weight = 0): void {
    if (this.broken !== undefined && weight > 0) return;
    this.waiting.push({ what, work, weight });
    this.weight += weight;
    // What waits behind a failure waits for its timer, too.
    if (this.timer === undefined) this.go();
    else if (this.weight > mostWaiting) this.giveUp('more waited to be written than is kept in memory');
  }

  private go(): void {
    this.timer = undefined;
    for (let next = this.waiting[0]; next; next = this.waiting[0]) {
      try {
        next.work();
      } catch (error) {
        return this.failed(next, asError(error));
      }
      this.waiting.shift();
      this.weight -= next.weight;
      this.failingSince = undefined;
      this.pauseMs = firstPauseMs;
    }
    for (const done of this.empty.splice(0)) done();
  }

  private failed({ what }: Parcel, error: Error): void {
    const now = performance.now();
    if (this.failingSince === undefined) trouble(what, error, this.about);
    this.failingSince ??= now;
    const since = now - this.failingSince;
    if (this.broken === undefined && (since > patienceMs || this.weight > mostWaiting)) this.giveUp(error.message);
    if (since > lastPatienceMs) {
      trouble('giving up on an attempt', error, this.about);
      this.waiting.length = 0;
      for (const done of this.empty.splice(0)) done();
      return;
    }
    this.timer = setTimeout(() => this.go(), this.pauseMs);
    this.timer.unref();
    this.pauseMs = Math.min(longestPauseMs, this.pauseMs * 2);
  }

  private giveUp(why: string): void {
    this.broken ??= why;
    const light = this.waiting.filter(({ weight }) => weight === 0);
    this.waiting.splice(0, this.waiting.length, ...light);
    this.weight = 0;
  }

  /** Settled once nothing waits, or after the limit. */
  drained(limitMs: number): Promise<void> {
    if (this.waiting.length === 0) return Promise.resolve();
    return new Promise((done) => {
      const timer = setTimeout(done, limitMs);
      this.empty.push(() => {
        clearTimeout(timer);
        done();
      });
    });
  }
}
