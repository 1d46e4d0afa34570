import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import type { Logger } from 'pino';
import { background } from '../../core/background.ts';
import { aside, spoolFolder } from '../../browser/devtools/spool.ts';
import { AskedThread } from '../jobs/thread.ts';
import type { Store } from '../store/store.ts';
import type { SpoolLook, SpoolQuestion } from './spool-thread.ts';

/** How often it is looked for what browsers of this machine recorded while no server answered, ms. */
const lookEveryMs = 20_000;
/** What cannot be taken in is tried again after a pause that doubles, so many times in all. */
const firstPauseMs = 30_000;
const mostTries = 5;
const longestLookMs = 3_600_000;

/** What waits, and what was set aside, for whoever misses an attempt. */
export interface SpoolView {
  folder: string;
  waiting: { id: string; why: string }[];
  setAside: { id: string; why: string }[];
}

/** Takes in what `iskel browser` recorded for this server on this machine and could not deliver, in a thread of its own. */
export class Spooled {
  private timer: NodeJS.Timeout | undefined;
  private looking = false;
  private readonly thread: AskedThread<SpoolQuestion, SpoolLook>;
  private readonly tries = new Map<string, { count: number; after: number; why: string }>();
  private readonly setAside: { id: string; why: string }[] = [];

  constructor(
    store: Store,
    private readonly settle: (id: string) => void,
    private readonly log: Logger,
    private readonly folder = spoolFolder(),
  ) {
    this.thread = new AskedThread(
      new URL('./spool-thread.ts', import.meta.url),
      { home: store.home, folder },
      longestLookMs,
    );
  }

  /** @param address by which this server is known to those who record for it */
  begin(address: string): void {
    const look = (): void => {
      if (!this.looking) background('taking in what was spooled', this.takeIn(address));
    };
    this.timer = setInterval(look, lookEveryMs);
    this.timer.unref();
    look();
  }

  view(): SpoolView {
    const waiting = [...this.tries].map(([id, { why }]) => ({ id, why }));
    return { folder: this.folder, waiting, setAside: this.setAside.slice(-50) };
  }

  private async takeIn(address: string): Promise<void> {
    if (!this.anything()) return;
    this.looking = true;
    const now = Date.now();
    const known = [...this.tries];
    try {
      const { brought, failed } = await this.thread.ask({
        address,
        notYet: known.filter(([, { after }]) => after > now).map(([id]) => id),
        last: known.filter(([, { count }]) => count >= mostTries - 1).map(([id]) => id),
      });
      for (const one of failed) this.failed(one);
      for (const id of brought) this.settle(id);
    } finally {
      this.looking = false;
    }
  }

  private failed({ id, why, setAside }: SpoolLook['failed'][number]): void {
    const count = (this.tries.get(id)?.count ?? 0) + 1;
    if (setAside) {
      this.tries.delete(id);
      this.setAside.push({ id, why });
      this.log.warn(`${id} could not be taken in and was set aside in ${join(this.folder, aside)}: ${why}`);
      return;
    }
    if (count === 1)
      this.log.warn(`${id} waits in ${this.folder} and could not be taken in: ${why}; it is tried again`);
    this.tries.set(id, { count, why, after: Date.now() + firstPauseMs * 2 ** (count - 1) });
  }

  /** Whether a browser ever left something; a thread is started for nothing else. */
  private anything(): boolean {
    try {
      return readdirSync(this.folder).some((name) => name.startsWith('b-'));
    } catch {
      return false;
    }
  }

  async close(): Promise<void> {
    clearInterval(this.timer);
    this.timer = undefined;
    await this.thread.close();
  }
}
