import { background } from '../../core/background.ts';
import type { BidiLink } from '../bidi-link.ts';
import { seldomMs, type PageCamera, type PictureWhen } from './camera.ts';
import { clock } from './clock.ts';
import type { AttemptRecorder } from './recorder.ts';

/** A picture that is asked for holds the browser up for some 30 ms: they follow each other less closely. */
const gapMs = { standard: 700, full: 200 } as const;
const quality = 0.55;

interface View {
  takenAt: number;
  dueAt: number;
  timer: NodeJS.Timeout | undefined;
  asked: boolean;
  last: string;
}

/** Takes pictures through the browser's own socket, where its frames cannot be had more cheaply. */
export class SocketCamera implements PageCamera {
  private readonly views = new Map<string, View>();

  constructor(
    private readonly bidi: BidiLink,
    private readonly detail: keyof typeof gapMs,
    private readonly recorder: () => AttemptRecorder | undefined,
  ) {}

  open(context: string): void {
    if (!this.views.has(context))
      this.views.set(context, { takenAt: 0, dueAt: 0, timer: undefined, asked: false, last: '' });
  }

  wakeAll(when: PictureWhen = 'soon'): void {
    for (const [context, view] of this.views) {
      const gap = when === 'now and then' ? Math.max(seldomMs, gapMs[this.detail]) : gapMs[this.detail];
      const wait = when === 'at once' ? 0 : Math.max(0, gap - (clock() - view.takenAt));
      if (view.timer && clock() + wait >= view.dueAt) continue;
      clearTimeout(view.timer);
      view.dueAt = clock() + wait;
      view.timer = setTimeout(() => {
        view.timer = undefined;
        background('taking a picture', this.take(context, view));
      }, wait);
    }
  }

  private async take(context: string, view: View): Promise<void> {
    if (view.asked) return;
    view.asked = true;
    view.takenAt = clock();
    const at = clock();
    // A window that is gone, or whose dialog stands open, has no picture; that is no fault.
    const told = await this.bidi
      .send<{ data: string }>('browsingContext.captureScreenshot', { context, format: { type: 'image/jpeg', quality } })
      .catch(() => undefined)
      .finally(() => (view.asked = false));
    if (!told || told.data === view.last) return;
    view.last = told.data;
    const bytes = Buffer.from(told.data, 'base64');
    const { width, height } = jpegSize(bytes);
    await this.recorder()?.picture('frame', bytes, 'image/jpeg', at, { width, height, scale: 1 }, context);
  }

  close(context: string): void {
    clearTimeout(this.views.get(context)?.timer);
    this.views.delete(context);
  }

  end(): void {
    for (const context of [...this.views.keys()]) this.close(context);
  }
}

/** Width and height out of the frame header of a JPEG; 0 where there is none. */
export function jpegSize(bytes: Buffer): { width: number; height: number } {
  for (let at = 2; at + 9 < bytes.length && bytes[at] === 0xff;) {
    const marker = bytes[at + 1]!;
    if (marker >= 0xc0 && marker <= 0xcf && marker !== 0xc4 && marker !== 0xc8 && marker !== 0xcc)
      return { height: bytes.readUInt16BE(at + 5), width: bytes.readUInt16BE(at + 7) };
    at += 2 + bytes.readUInt16BE(at + 2);
  }
  return { width: 0, height: 0 };
}
