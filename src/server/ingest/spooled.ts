import type { Logger } from 'pino';
import { background } from '../../core/background.ts';
import { readyIn, spoolFolder } from '../../browser/devtools/spool.ts';
import { restorePack } from '../exports/packs.ts';
import { tellRecorded } from './delivered/tell-recorded.ts';
import type { Store } from '../store/store.ts';

/** How often it is looked for what browsers of this machine recorded while no server answered, ms. */
const lookEveryMs = 20_000;

/** Takes in what `iskel browser` recorded for this server on this machine and could not deliver. */
export class Spooled {
  private timer: NodeJS.Timeout | undefined;
  private looking = false;

  constructor(
    private readonly store: Store,
    private readonly settle: (id: string) => void,
    private readonly log: Logger,
    private readonly folder = spoolFolder(),
  ) {}

  /** @param address by which this server is known to those who record for it */
  begin(address: string): void {
    const look = (): void => {
      if (!this.looking) background('taking in what was spooled', this.takeIn(address));
    };
    this.timer = setInterval(look, lookEveryMs);
    this.timer.unref();
    look();
  }

  private async takeIn(address: string): Promise<void> {
    this.looking = true;
    const brought: string[] = [];
    try {
      for (const one of readyIn(this.folder)) {
        if (one.to !== address || this.timer === undefined) continue;
        try {
          const { id, isNew } = await restorePack(this.store, one.pack(), this.store.rules.masker());
          if (isNew) brought.push(id);
          one.remove();
        } catch (error) {
          this.log.warn(`${one.id} waits in ${this.folder} and could not be taken in: ${(error as Error).message}`);
        }
      }
      brought.push(...tellRecorded(this.store, null, () => 'an earlier report', brought).shared);
    } finally {
      for (const id of brought) this.settle(id);
      this.looking = false;
    }
  }

  close(): void {
    clearInterval(this.timer);
    this.timer = undefined;
  }
}
