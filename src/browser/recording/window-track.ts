import type { StepData } from '../../core/evidence/event.ts';
import type { CommandCall } from './commands.ts';
import { elementKey } from './commands.ts';
import { textOf } from './steps.ts';

type Json = Record<string, unknown>;

/** What a test names a frame by: its element, or its number among the frames of where it stands. */
export type FrameName = { element: string } | { number: number };

/** Gives the browsing context of a frame, where the browser tells. */
export type FrameFinder = (parent: string, frame: FrameName) => Promise<string | undefined>;

/** A frame the test went into. Its context is asked for; steps that come before the answer get it when it is there. */
interface Frame {
  context: string | undefined;
  asked: Promise<string | undefined>;
  waiting: StepData[];
}

/** Commands that bring a session back to the whole page of its window, by the specification. */
const toTheTop: ReadonlySet<string> = new Set(['navigate to', 'refresh']);

/** Which window, and which frame in it, a session speaks to: followed through its own commands. */
export class WindowTrack {
  private window: string | undefined;
  private frames: Frame[] = [];
  /** In the order in which the test met them. */
  private readonly met: string[] = [];

  constructor(private readonly find?: FrameFinder) {}

  /** The window a session begins in. */
  begins(window: string): void {
    this.window = window;
    this.meets(window);
  }

  /** Writes into a step where it was sent to. To be called before the step itself is followed. */
  stamp(data: StepData): void {
    if (this.window === undefined) return;
    data.window = this.window;
    const frame = this.frames.at(-1);
    if (!frame) data.context = this.window;
    else if (frame.context !== undefined) data.context = frame.context;
    else frame.waiting.push(data);
  }

  /** The number of the window that a command goes to, as a drill counts them. */
  numberOf(handle: string): number | undefined {
    const at = this.met.indexOf(handle);
    return at < 0 ? undefined : at + 1;
  }

  /** Follows a command that was answered without an error. */
  follow({ command }: CommandCall, asked: Json, value: unknown): void {
    switch (command.name) {
      case 'get window handle':
        return this.meets(textOf(value));
      case 'get window handles':
        if (Array.isArray(value)) for (const handle of value) this.meets(textOf(handle));
        return;
      case 'switch to window':
        this.window = textOf(asked.handle ?? asked.name);
        this.frames = [];
        return this.meets(this.window);
      case 'new window':
        return this.meets(textOf((value as Json | null)?.handle));
      case 'close window':
        this.window = undefined;
        this.frames = [];
        return;
      case 'switch to frame':
        return this.into(asked.id);
      case 'switch to parent frame':
        this.frames.pop();
        return;
      default:
        if (toTheTop.has(command.name)) this.frames = [];
    }
  }

  private meets(handle: string): void {
    if (handle && !this.met.includes(handle)) this.met.push(handle);
  }

  private into(id: unknown): void {
    if (id === null || id === undefined) {
      this.frames = [];
      return;
    }
    const name = frameName(id);
    const parent = this.frames.at(-1)?.asked ?? Promise.resolve(this.window);
    const asked = parent.then((context) =>
      context !== undefined && name && this.find ? this.find(context, name).catch(() => undefined) : undefined,
    );
    const frame: Frame = { context: undefined, asked, waiting: [] };
    this.frames.push(frame);
    void asked.then(
      (context) => {
        frame.context = context;
        for (const data of frame.waiting.splice(0)) if (context !== undefined) data.context = context;
      },
      () => undefined,
    );
  }
}

function frameName(id: unknown): FrameName | undefined {
  if (typeof id === 'number') return { number: id };
  const element = typeof id === 'object' ? (id as Json)[elementKey] : undefined;
  return typeof element === 'string' ? { element } : undefined;
}
