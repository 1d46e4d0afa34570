import { background } from '../../core/background.ts';
import type { DebuggingDoor, DebuggingLine } from '../debugging-door.ts';
import { clock } from './clock.ts';
import type { AttemptRecorder } from './recorder.ts';

const quality = 55;
const longestSide = 1920;

/**
 * How close pictures may follow each other. A running screencast costs a tight test a tenth of its
 * time; single frames taken when something changed, no closer than this, cost a fortieth.
 */
export const pictureGapMs = { standard: 280, full: 60 } as const;

/**
 * A picture comes late where processors are busy, and there it costs the test most: as many times as long as the last
 * one took to come pass before the next, up to the longest gap. On a page at rest one comes within 25 ms.
 */
const restFor = { standard: 20, full: 0 } as const;
const longestGapMs = 900;

/** How soon a picture is worth taking. */
export type PictureWhen = 'soon' | 'rested' | 'at once' | 'now and then';

/** How close pictures follow each other of a page where nothing that is watched changes, ms. */
export const seldomMs = 1500;

/** Takes pictures of windows when something happened in them. */
export interface PageCamera {
  open(context: string): void;
  close(context: string): void;
  /** A picture as soon as the last one is old enough; when the browser has rested from it; at once; or when nothing was pictured for long. */
  wakeAll(when?: PictureWhen): void;
  end(): void;
}

interface Frame {
  data: string;
  sessionId: number;
  metadata: { timestamp?: number; deviceWidth: number; deviceHeight: number; pageScaleFactor: number };
}

interface View {
  line: DebuggingLine | undefined;
  send: (method: string, params?: object) => void;
  /** A frame was asked for and has not come yet. */
  asked: boolean;
  takenAt: number;
  /** How long the last picture took to come, ms. */
  tookMs: number;
  /** When the picture that is waited for will be taken. */
  dueAt: number;
  timer: NodeJS.Timeout | undefined;
  last: string;
}

/**
 * Takes pictures of windows when something happened in them, straight from the browser's own
 * debugging door, past driver and mapper. A frame is had by starting a screencast and stopping it
 * with its first picture.
 */
export class Camera implements PageCamera {
  private readonly views = new Map<string, View>();

  constructor(
    private readonly door: DebuggingDoor,
    private readonly detail: keyof typeof pictureGapMs,
    private readonly recorder: () => AttemptRecorder | undefined,
  ) {}

  /** How close the next picture of a window may follow its last. */
  private gapMs(view: View): number {
    return Math.max(pictureGapMs[this.detail], Math.min(longestGapMs, view.tookMs * restFor[this.detail]));
  }

  open(context: string): void {
    if (this.views.has(context)) return;
    let id = 0;
    const send = (method: string, params: object = {}): void => view.line?.send({ id: ++id, method, params });
    const view: View = {
      line: undefined,
      send,
      asked: false,
      takenAt: 0,
      tookMs: 0,
      dueAt: 0,
      timer: undefined,
      last: '',
    };
    this.views.set(context, view);
    const heard = (bytes: Buffer): void => {
      if (!bytes.includes('Page.screencastFrame')) return;
      const message = JSON.parse(bytes.toString()) as { method?: string; params?: Frame };
      if (message.method === 'Page.screencastFrame' && message.params) this.take(context, view, message.params);
    };
    const closed = (): void => {
      if (this.views.get(context) === view) this.close(context);
    };
    this.door.page(context, { heard, closed }).then((line) => {
      // A window may be gone before its line stands.
      if (this.views.get(context) === view) view.line = line;
      else line.close();
    }, closed);
  }

  /** Something happened in a window: a picture now, or as soon as the last one is old enough. */
  wake(context: string, when: PictureWhen = 'soon'): void {
    const view = this.views.get(context);
    if (!view) return;
    // A step is pictured as soon as may be: what it met is looked at there. What changes by itself can rest.
    const shortest = when === 'soon' ? pictureGapMs[this.detail] : this.gapMs(view);
    const gap = when === 'now and then' ? Math.max(seldomMs, shortest) : shortest;
    const wait = when === 'at once' ? 0 : Math.max(0, gap - (clock() - view.takenAt));
    // One that comes sooner takes the place of one that would come later.
    if (view.timer && clock() + wait >= view.dueAt) return;
    clearTimeout(view.timer);
    view.dueAt = clock() + wait;
    view.timer = setTimeout(() => {
      view.timer = undefined;
      if (view.asked) return;
      view.asked = true;
      view.takenAt = clock();
      view.send('Page.startScreencast', {
        format: 'jpeg',
        quality,
        maxWidth: longestSide,
        maxHeight: longestSide,
        everyNthFrame: 1,
      });
      // A window that paints nothing (hidden, closing) never answers; it may be asked again later.
      setTimeout(() => (view.asked = false), 1000).unref();
    }, wait);
  }

  wakeAll(when: PictureWhen = 'soon'): void {
    for (const context of this.views.keys()) this.wake(context, when);
  }

  private take(context: string, view: View, { data, sessionId, metadata }: Frame): void {
    // Stopped first: a frame that is acknowledged before calls for the next.
    view.send('Page.stopScreencast');
    view.send('Page.screencastFrameAck', { sessionId });
    if (view.asked) view.tookMs = clock() - view.takenAt;
    view.asked = false;
    if (view.last === data) return;
    view.last = data;
    const at = metadata.timestamp ? metadata.timestamp * 1000 : clock();
    const size = { width: metadata.deviceWidth, height: metadata.deviceHeight, scale: metadata.pageScaleFactor || 1 };
    const recorder = this.recorder();
    if (recorder) {
      const kept = recorder.picture('frame', Buffer.from(data, 'base64'), 'image/jpeg', at, size, context);
      background('keeping a picture', kept, recorder.id);
    }
  }

  close(context: string): void {
    const view = this.views.get(context);
    if (!view) return;
    this.views.delete(context);
    clearTimeout(view.timer);
    view.line?.close();
  }

  end(): void {
    for (const context of [...this.views.keys()]) this.close(context);
  }
}
