import { abilitiesOf } from '../abilities.ts';
import { Bidi } from '../bidi.ts';
import type { BidiListener } from '../bidi-link.ts';
import { firstBidiId } from '../firefox/passed-socket.ts';
import { clock } from '../recording/clock.ts';
import { everyStandardEvent } from '../recording/session-watch.ts';
import type { WatchedBrowser } from './watched-browser.ts';

/** A browser whose one BiDi connection is shared with its client: our commands have numbers of their own on it. */
export class SharedBidi {
  private open = true;
  private listener: BidiListener = () => undefined;
  private onClose: () => void = () => undefined;
  private readonly bidi: Bidi;

  /** @param write hands a command to the connection */
  constructor(write: (command: string) => void) {
    const isOpen = (): boolean => this.open;
    const close = (): void => this.end();
    this.bidi = new Bidi(
      {
        get open() {
          return isOpen();
        },
        send: (text) => write(text),
        close,
      },
      (...told) => this.listener(...told),
      firstBidiId,
    );
  }

  /** A message of ours, or an event. */
  hear(message: Buffer): void {
    this.bidi.take(message, clock());
  }

  /** @param capabilities of the session, as the browser answered them */
  browser({ browserName, browserVersion, platformName }: Record<string, unknown>): WatchedBrowser {
    return {
      environment: () =>
        Promise.resolve({
          browser: String(browserName ?? 'firefox'),
          version: String(browserVersion ?? ''),
          platform: String(platformName ?? process.platform),
        }),
      abilities: abilitiesOf.firefox,
      events: everyStandardEvent,
      link: (onEvent, _seen, onClose) => {
        this.listener = onEvent;
        this.onClose = onClose;
        return Promise.resolve(this.bidi);
      },
    };
  }

  /** The connection is gone. */
  end(): void {
    if (!this.open) return;
    this.bidi.catchUp();
    this.open = false;
    this.bidi.over();
    this.onClose();
  }
}
