import type { Worker } from 'node:worker_threads';
import type { Door, Heard, Passed, RecordingTask, Told } from '../browser/devtools/recording-thread.ts';
import { startThread } from '../server/jobs/thread.ts';

/** A client's first command waits no longer than this for the recorder to stand, ms. */
const standMs = 3000;
/** Once the browser is gone, what was recorded is written and delivered within this, ms; the rest is delivered another time. */
const deliverMs = 3000;
/** More than this unread by the recorder, and it is given up: nobody waits for it. */
const mostUnread = 512 * 1024 * 1024;
/** How often the recorder is told what was passed on, ms. */
const tellEveryMs = 10;

/** A recorder in a thread of its own, fed with what is passed on. */
export class Recorder {
  private readonly thread: Worker;
  private unread = 0;
  private lately: Passed[] = [];
  private telling: NodeJS.Timeout | undefined;
  private lost = false;
  private finished: () => void = () => undefined;
  private ours: Buffer[] = [];
  readonly stands: Promise<void>;
  /** Says something of ours to the browser. */
  say: (command: string) => void = () => undefined;
  /** The recorder is gone, before its browser. */
  onLost: () => void = () => undefined;

  constructor(task: RecordingTask) {
    this.thread = startThread(new URL('../browser/devtools/recording-thread.ts', import.meta.url), { ...task });
    this.stands = new Promise((done) => {
      const timer = setTimeout(done, standMs);
      const over = (): void => {
        this.lost = true;
        clearTimeout(timer);
        done();
        this.finished();
        this.onLost();
      };
      this.thread.on('message', (told: Told) => {
        if ('read' in told) this.unread -= told.read;
        else if ('say' in told) this.say(told.say);
        else if ('trouble' in told) console.error(`iskel browser: ${told.trouble}`);
        else if ('done' in told) this.finished();
        else {
          clearTimeout(timer);
          done();
        }
      });
      this.thread.on('error', over);
      this.thread.on('exit', over);
    });
  }

  watchFrom(door: Door): void {
    if (!this.lost) this.tell({ door });
  }

  /** What the browser says to us is answered soon: it is not held back for others. */
  hearOurs(message: Buffer): void {
    if (this.lost) return;
    if (this.ours.push(message) > 1) return;
    setImmediate(() => {
      if (!this.lost) this.tell({ ours: this.ours });
      this.ours = [];
    });
  }

  hear(passed: Passed & { chunk: Buffer }): void {
    if (this.lost) return;
    this.unread += passed.chunk.length;
    if (this.unread > mostUnread) {
      this.lost = true;
      this.thread.terminate().catch(() => undefined);
      return;
    }
    this.lately.push(passed);
    // A thread that is woken for every piece takes the processor from those who drive and are driven.
    this.telling ??= setTimeout(() => this.tellLately(), tellEveryMs);
  }

  private tellLately(): void {
    clearTimeout(this.telling);
    this.telling = undefined;
    const passed = this.lately;
    this.lately = [];
    if (passed.length && !this.lost) this.tell({ passed });
  }

  private tell(heard: Heard): void {
    this.thread.postMessage(heard);
  }

  async end(interrupted?: string): Promise<void> {
    this.tellLately();
    if (this.lost) return;
    const ended = new Promise<void>((done) => (this.finished = done));
    this.tell({ ended: true, limitMs: deliverMs, ...(interrupted ? { interrupted } : {}) });
    await Promise.race([ended, new Promise((done) => setTimeout(done, deliverMs + 500))]);
  }
}
