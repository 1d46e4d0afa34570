import sharp from 'sharp';
import type { ScreenPixels, VirtualScreen } from '../virtual-screen.ts';
import { pictureGapMs, seldomMs } from './camera.ts';
import { clock } from './clock.ts';
import type { AttemptRecorder } from './recorder.ts';
import type { Watch } from './watch.ts';

const quality = 55;
/** A page that answers a step by painting has done so within this, mostly; after it the screen is looked at now and then. */
const lookOnMs = 1200;

/** How long a failed attempt may wait for its page to be painted. Passing attempts never wait. */
const lingerMs = 700;
/** Fewer colours than this, on points all over it, are no page: windows are filled with one or two before they are painted. */
const leastColours = 12;

/** The part of the screen that shows the page: the window stands in the corner, below its own bar. */
export interface PageArea {
  bar: number;
  width: number;
  height: number;
}

/**
 * Takes pictures of a browser that tells nothing of itself, from the screen it draws on: after a step
 * the screen is looked at closely for a while, then seldom, and what differs from the picture before is kept. The browser
 * is not asked, so its test is not held up.
 */
export class ScreenCamera implements Watch {
  private last: ScreenPixels | undefined;
  private timer: NodeJS.Timeout | undefined;
  private dueAt = 0;
  private until = 0;
  private ended = false;
  private looking: Promise<void> = Promise.resolve();
  private readonly gapMs: number;

  constructor(
    private readonly screen: VirtualScreen,
    private readonly area: PageArea,
    detail: keyof typeof pictureGapMs,
    private readonly recorder: AttemptRecorder,
  ) {
    this.gapMs = pictureGapMs[detail];
  }

  /** The window has another size from now on. */
  sized(width: number, height: number): void {
    this.area.width = width;
    this.area.height = height - this.area.bar;
  }

  opened(): { width: number; height: number } {
    this.happened(false);
    return { width: this.area.width, height: this.area.height + this.area.bar };
  }

  readonly tellsFields = false;

  watch(): void {}

  idle(): void {}

  happened(failed: boolean): void {
    this.until = clock() + lookOnMs;
    if (failed) this.lookNow();
    // One that is due within its gap stands: pictures follow each other no closer.
    if (!this.timer || this.dueAt > clock() + this.gapMs) this.lookIn(this.gapMs / 4);
  }

  private lookIn(ms: number): void {
    clearTimeout(this.timer);
    this.timer = undefined;
    if (this.ended) return;
    this.dueAt = clock() + ms;
    this.timer = setTimeout(() => this.again(), ms);
    this.timer.unref();
  }

  private again(): void {
    this.timer = undefined;
    this.lookNow();
    this.lookIn(clock() < this.until ? this.gapMs : seldomMs);
  }

  private lookNow(): void {
    this.looking = this.looking.then(() => this.look()).catch(() => {});
  }

  private async look(): Promise<void> {
    const { bar, width, height } = this.area;
    const at = clock();
    const seen = await this.screen.read(bar, height);
    if (this.last?.bytes.equals(seen.bytes)) return;
    this.last = seen;
    const size = { width: Math.min(width, seen.width), height: seen.height };
    const jpeg = await sharp(seen.bytes, { raw: { width: seen.width, height: seen.height, channels: 4 } })
      .extract({ left: 0, top: 0, ...size })
      .removeAlpha()
      .recomb(blueFirst)
      .jpeg({ quality })
      .toBuffer();
    await this.recorder.picture('frame', jpeg, 'image/jpeg', at, { ...size, scale: 1 });
  }

  /** Nothing is known of what is still under way; the page gets time to paint what the test met, until it has. */
  async linger(): Promise<void> {
    const end = clock() + lingerMs;
    for (let before: ScreenPixels | undefined; clock() < end; before = this.last) {
      this.lookNow();
      await this.looking;
      if (this.last && this.last === before && isPainted(this.last)) return;
      await new Promise((done) => setTimeout(done, this.gapMs / 2));
    }
  }

  async flush(): Promise<void> {
    this.lookNow();
    await this.looking;
  }

  close(): void {
    clearTimeout(this.timer);
    this.timer = undefined;
    this.ended = true;
  }
}

/** The screen has blue before red. */
const blueFirst: [[number, number, number], [number, number, number], [number, number, number]] = [
  [0, 0, 1],
  [0, 1, 0],
  [1, 0, 0],
];

/** Whether a screen shows more than the grounds of windows. */
function isPainted({ bytes }: ScreenPixels): boolean {
  const colours = new Set<number>();
  // Words stand in a small part of a page: points lie close, and not in columns.
  for (let i = 0; i + 4 <= bytes.length && colours.size < leastColours; i += 4 * 7) colours.add(bytes.readUInt32LE(i));
  return colours.size >= leastColours;
}
