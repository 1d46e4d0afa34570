import { guarded } from '../../core/background.ts';
import type { DebuggingCommand, DebuggingDoor, DebuggingLine, LineListener } from '../debugging-door.ts';
import { sessionAtEnd, sessionIn } from './nul-messages.ts';
import { firstId } from './shared-pipe.ts';
import { marked } from './unseen.ts';

type Json = Record<string, unknown>;

/** Numbers of our commands on the pipe: the first ones are those of the pipe itself, then the door's, then the lines'. */
const doorIds = firstId + 10;
const lineIds = firstId + 100_000_000;

interface Line {
  session: string;
  listener: LineListener;
  open: boolean;
}

/** The door of a browser whose pipe is shared with its client: lines are sessions of our own on it. */
export class PipeDoor implements DebuggingDoor {
  private root: string | undefined;
  private readonly rooted: Promise<void>;
  private isRooted: () => void = () => undefined;
  private count = doorIds;
  private readonly waiting = new Map<number, { done: (result: Json) => void; fail: (error: Error) => void }>();
  /** By session, also of those that a line's own commands began. */
  private readonly lines = new Map<string, Line>();
  private gone = false;

  /**
   * @param write hands a command to the pipe
   * @param name of all sources of ours
   */
  constructor(
    private readonly write: (command: string) => void,
    private readonly name: string,
  ) {
    this.rooted = new Promise((done) => (this.isRooted = done));
  }

  async version(): Promise<string> {
    return String((await this.ask('Browser.getVersion')).product);
  }

  browser(listener: LineListener): Promise<DebuggingLine> {
    return this.line('Target.attachToBrowserTarget', {}, listener);
  }

  page(target: string, listener: LineListener): Promise<DebuggingLine> {
    return this.line('Target.attachToTarget', { targetId: target, flatten: true }, listener);
  }

  private async line(method: string, params: Json, listener: LineListener): Promise<DebuggingLine> {
    const session = String((await this.ask(method, params)).sessionId);
    const line: Line = { session, listener, open: !this.gone };
    this.lines.set(session, line);
    return {
      get open() {
        return line.open;
      },
      send: ({ id, ...command }: DebuggingCommand) => {
        if (line.open)
          this.write(JSON.stringify({ id: id + lineIds, sessionId: session, ...marked(command, this.name) }));
      },
      close: () => {
        if (line.open) this.ask('Target.detachFromTarget', { sessionId: session }).catch(() => undefined);
        this.closed(line);
      },
    };
  }

  private async ask(method: string, params: Json = {}): Promise<Json> {
    await this.rooted;
    const id = this.count++;
    return new Promise((done, fail) => {
      if (this.gone) return fail(new Error('the browser is gone'));
      this.waiting.set(id, { done, fail });
      this.write(JSON.stringify({ id, method, params, sessionId: this.root }));
    });
  }

  /** A message of ours. */
  hear(message: Buffer): void {
    const session = sessionAtEnd(message);
    const { begun, ended } = sessionIn(message);
    if (begun !== undefined && this.root === undefined) {
      this.root = begun;
      return this.isRooted();
    }
    if (session === undefined || session === this.root) return this.hearRoot(message, ended);
    const line = this.lines.get(session);
    if (!line) return;
    if (begun !== undefined) this.lines.set(begun, line);
    if (ended !== undefined) this.lines.delete(ended);
    guarded('reading what a browser told', () => line.listener.heard(asTold(message, session === line.session)));
  }

  private hearRoot(message: Buffer, ended: string | undefined): void {
    const line = ended === undefined ? undefined : this.lines.get(ended);
    if (line && line.session === ended) return this.closed(line);
    const { id, result, error } = JSON.parse(message.toString()) as {
      id?: number;
      result?: Json;
      error?: { message?: string };
    };
    const one = this.waiting.get(id ?? 0);
    this.waiting.delete(id ?? 0);
    if (error) one?.fail(new Error(error.message));
    else one?.done(result ?? {});
  }

  private closed(line: Line): void {
    if (!line.open) return;
    line.open = false;
    for (const [session, one] of this.lines) if (one === line) this.lines.delete(session);
    line.listener.closed?.();
  }

  /** The browser is gone. */
  end(): void {
    this.gone = true;
    for (const line of new Set(this.lines.values())) this.closed(line);
    for (const { fail } of this.waiting.values()) fail(new Error('the browser is gone'));
    this.waiting.clear();
  }
}

/** A message as it would come over a line that is nobody else's: with the line's own numbers, its first session unnamed. */
function asTold(message: Buffer, ofLine: boolean): Buffer {
  let text = message.toString();
  const number = /^\{"id":(\d{1,15})/.exec(text)?.[1];
  if (number !== undefined) text = `{"id":${Number(number) - lineIds}${text.slice(6 + number.length)}`;
  if (ofLine) text = text.replace(/,"sessionId":"\w{1,100}"\}$/, '}');
  return Buffer.from(text);
}
