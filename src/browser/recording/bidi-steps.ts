import { guarded } from '../../core/background.ts';
import { parseJson } from './command-body.ts';
import { saidByBidi, type SaidByBidi } from './said-by-bidi.ts';
import { answerOf, bytes, type Answer } from './wire-answer.ts';

type Json = Record<string, unknown>;

/**
 * Where the commands of a client's own BiDi socket are taken down, as those of its other commands are; each with the window
 * or frame it is about, where it names one.
 */
export interface StepTaker {
  begin(method: string, path: string, body: Buffer, context?: string): void;
  /** While a command runs, what it looks for is watched. */
  readonly commands: { meanwhile(method: string, path: string, body: Buffer): void };
  later(work: () => void): void;
  took(
    method: string,
    path: string,
    body: Buffer,
    answer: Answer | undefined,
    at: number,
    until: number,
    context?: string,
  ): void;
}

interface Pending {
  said: SaidByBidi;
  body: Buffer;
  at: number;
}

/** A client that never hears answers costs no more than this. */
const mostPending = 5000;
/** Longer messages are told without being read, but for the pictures that were asked for. */
const longestMessage = 8 * 1024 * 1024;

/** What a client says on its BiDi socket, as steps. */
export class BidiSteps {
  private readonly pending = new Map<number, Pending>();
  /** Windows the client made or was told of, and the one it spoke of last. */
  private readonly windows = new Set<string>();
  private window: string | undefined;

  /** @param turns whether turning to another window is a step of its own */
  constructor(
    private readonly taker: StepTaker,
    private readonly turns = true,
  ) {}

  client(message: string, at: number): void {
    if (message.length > longestMessage) return;
    const asked = parseJson(Buffer.from(message));
    if (typeof asked?.method !== 'string' || typeof asked.id !== 'number') return;
    const said = guarded('reading a BiDi command', () =>
      saidByBidi(asked.method as string, (asked.params ?? {}) as Json),
    );
    if (!said || this.pending.size >= mostPending) return;
    this.looksAt(said, at);
    const body = bytes(said.body);
    this.taker.begin(said.method, said.path, body, said.context);
    this.taker.later(() => this.taker.commands.meanwhile(said.method, said.path, body));
    this.pending.set(asked.id, { said, body, at });
  }

  /** The command protocol speaks to one window at a time: a command that names another has turned to it. */
  private looksAt({ context, path }: SaidByBidi, at: number): void {
    if (!this.turns || context === undefined || path === '/window/new') return;
    this.window ??= context;
    if (context === this.window || !this.windows.has(context)) return;
    this.window = context;
    const body = bytes({ handle: context });
    this.taker.begin('POST', '/window', body);
    this.taker.later(() => this.taker.took('POST', '/window', body, answerOf(null), at, at));
  }

  driver(message: string, until: number): void {
    const id = /"id":(\d{1,15})\b/.exec(message.slice(0, 200) + message.slice(-200))?.[1];
    if (id === undefined || !this.pending.size) return;
    const told = message.length <= 32 * longestMessage ? parseJson(Buffer.from(message)) : undefined;
    const one = told && typeof told.id === 'number' ? this.pending.get(told.id) : undefined;
    if (!one) return;
    this.pending.delete(told!.id as number);
    this.answered(one, told!, until);
  }

  private answered({ said, body, at }: Pending, told: Json, until: number): void {
    const value =
      told.type === 'error'
        ? { error: text(told.error) || 'unknown error', message: text(told.message) }
        : (guarded('reading an answer', () => said.answer((told.result ?? {}) as Json)) ?? null);
    const handle = said.path === '/window/new' ? (value as { handle?: unknown }).handle : undefined;
    if (typeof handle === 'string' && handle) this.windows.add(handle);
    if (this.window !== undefined) this.windows.add(this.window);
    this.taker.later(() => this.taker.took(said.method, said.path, body, answerOf(value), at, until, said.context));
  }

  /** The socket is closed: what was not answered will not be. */
  end(until: number): void {
    for (const { said, body, at } of this.pending.values())
      this.taker.later(() => this.taker.took(said.method, said.path, body, undefined, at, until, said.context));
    this.pending.clear();
  }
}

const text = (value: unknown): string => (typeof value === 'string' ? value : '');
