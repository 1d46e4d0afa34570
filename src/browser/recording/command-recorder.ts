import { background, guarded } from '../../core/background.ts';
import { parseJson } from './command-body.ts';
import { readCommand, type CommandCall } from './commands.ts';
import type { Answer } from './wire-answer.ts';
import type { AttemptRecorder } from './recorder.ts';
import { textOf } from './steps.ts';
import type { Watch } from './watch.ts';
import { WindowTrack, type FrameFinder } from './window-track.ts';

type Json = Record<string, unknown>;

/** Steps after which the page usually looks different. */
const acting: ReadonlySet<string> = new Set([
  'press',
  'type',
  'clear',
  'keys',
  'navigate',
  'script',
  'dialog',
  'frame',
  'window',
]);

/**
 * Takes down the commands of one attempt: before each, while it runs and after it. Whoever sends commands, a client of
 * the endpoint or a drill that is played, has them recorded by this and by nothing else.
 */
export class CommandRecorder {
  private readonly windows: WindowTrack;
  private sizeTold = false;

  /**
   * @param watch what sees more of the session than its commands, where there is such
   * @param frames asks the browser which frame a test went into
   */
  constructor(
    private readonly recorder: AttemptRecorder,
    private readonly watch: () => Watch | undefined,
    frames?: FrameFinder,
  ) {
    this.windows = new WindowTrack(frames);
  }

  /** The window the session begins in. */
  begins(window: string): void {
    this.windows.begins(window);
  }

  /** Before a command is sent: an address that is opened makes its host the application's own. */
  before(method: string, path: string, body: Buffer): void {
    if (method !== 'POST' || path !== '/url') return;
    this.aside('noting an address', () => {
      const address = parseJson(body)?.url;
      if (typeof address === 'string') this.opens(address);
    });
  }

  /** An address is about to be opened. */
  opens(address: string): void {
    this.recorder.opens(address);
    this.watch()?.opens?.();
  }

  /** While a command runs: the locator of a find is watched from here on. */
  meanwhile(method: string, path: string, body: Buffer): void {
    this.aside('watching a locator', () => {
      const { command, element } = readCommand(method, path);
      if (command.action !== 'find') return;
      const locator = this.recorder.locatorAsked(parseJson(body) ?? {}, element);
      if (locator) this.watch()?.watch(locator);
    });
  }

  /** After a command was answered; `answer` is missing where the driver was gone. Never on the client's time. */
  after(method: string, path: string, body: Buffer, answer: Answer | undefined, at: number, until: number): void {
    const call = readCommand(method, path);
    if (call.command.name === 'delete session') return;
    if (call.command.action === 'picture' && answer?.status === 200) return this.picture(call, answer, at, until);
    const asked = parseJson(body) ?? {};
    const answered = answer
      ? parseJson(answer.body)
      : { value: { error: 'unknown error', message: 'the driver did not answer' } };
    const step = this.aside('reading a command', () =>
      this.recorder.command(call, asked, answered, at, until, this.windows, this.extra(call, asked)),
    );
    if (!step) return this.recorder.unreadable(call, answered, at, until);
    const { data } = step;
    if (!data.error) this.windows.follow(call, asked, answered?.value);
    const watch = this.watch();
    if (data.error || acting.has(data.action)) watch?.happened(Boolean(data.error) && data.action !== 'find');
    // A window nobody sized has the size it opens pages with.
    if (data.action === 'open') {
      const size = watch?.opened?.();
      if (size) this.tellSize(size);
    }
    if (data.command === 'set window rect') this.sized(answered?.value, watch);
    if (data.command === 'switch to window' && !data.error)
      this.recorder.add({
        lane: 'window',
        kind: 'looked-at',
        at: until,
        clock: 'recorder',
        data: { context: textOf(data.handle) },
      });
  }

  private picture(call: CommandCall, answer: Answer, at: number, until: number): void {
    this.recorder.command(call, {}, undefined, at, until, this.windows);
    if (call.command.name === 'print page') return;
    const data = parseJson(answer.body)?.value;
    if (typeof data !== 'string') return;
    const part = call.command.name !== 'take screenshot';
    const kept = this.recorder.screenshot(Buffer.from(data, 'base64'), until, part);
    background('keeping a screenshot', kept, this.recorder.id);
  }

  private sized(value: unknown, watch: Watch | undefined): void {
    const { width, height } = (value ?? {}) as { width?: number; height?: number };
    if (!width || !height) return;
    this.tellSize({ width, height });
    watch?.sized?.(width, height);
  }

  /** The first size is the attempt's; one that a test goes on to try is the test's own business. */
  private tellSize({ width, height }: { width: number; height: number }): void {
    if (this.sizeTold) return;
    this.sizeTold = true;
    this.recorder.sized(width, height);
  }

  /** Windows are numbered in the order in which the test met them, so that a drill can name them. */
  private extra({ command }: CommandCall, asked: Json): Json {
    if (command.name !== 'switch to window') return {};
    const number = this.windows.numberOf(textOf(asked.handle ?? asked.name));
    return number === undefined ? {} : { number };
  }

  /** What concerns the evidence and not the command: a failure of it is told, and costs the test nothing. */
  private aside<T>(what: string, work: () => T): T | undefined {
    return guarded(what, work, this.recorder.id);
  }
}
