import type { Readable, Writable } from 'node:stream';
import { endMark, sessionAtEnd, sessionIn } from './nul-messages.ts';
import type { Tap } from './passing.ts';
import { mayShowOurs, Unseen } from './unseen.ts';

/** Numbers of our own commands begin here: whatever has a smaller one is an answer to the client. */
export const firstId = 1_500_000_000;
/** So much of a message tells whether it answers a command, which, and with what. */
const headLength = 64;
const attach = { id: firstId, method: 'Target.attachToBrowserTarget' };

/**
 * A browser's debugging pipe, which its client and we use at once: a browser has but one, and a port beside it would stand
 * open to every program of this machine. We speak in sessions of our own, which begin with a root that is asked for before
 * the client says anything; what belongs to them is handed to us, all else goes to the client byte by byte.
 */
export class SharedPipe {
  private readonly unseen: Unseen;
  private readonly sessions = new Set<string>();
  private root: string | undefined;
  /** What goes to the browser must not begin within a command of the client's. */
  private between = true;
  private readonly queue: string[] = [];
  /** The message that is being read: its parts, unless it is known to be the client's. */
  private parts: Buffer[] = [];
  private head = '';
  private isClients = false;
  private client: { commands: Readable; answers: Writable } | undefined;
  private early: Buffer[] = [];

  /**
   * @param tap hears what goes between browser and client
   * @param ours told of each message of ours, without its end mark
   * @param name of all sources of ours
   */
  constructor(
    private readonly browser: { commands: Writable; answers: Readable },
    private readonly tap: Tap,
    private readonly ours: (message: Buffer) => void,
    name: string,
  ) {
    this.unseen = new Unseen(name);
    browser.commands.on('error', () => this.client?.commands.destroy());
    browser.commands.on('drain', () => this.client?.commands.resume());
    browser.answers.on('data', (chunk: Buffer) => this.answered(chunk));
    const over = (): void => void this.client?.answers.end();
    browser.answers.on('end', over);
    browser.answers.on('error', over);
    this.send(JSON.stringify(attach));
  }

  /** From now on the client's commands are passed on; nothing of it was read before. */
  join(client: { commands: Readable; answers: Writable }): void {
    this.client = client;
    client.answers.on('drain', () => this.browser.answers.resume());
    client.answers.on('error', () => this.browser.answers.destroy());
    client.commands.on('data', (chunk: Buffer) => this.commanded(chunk));
    const over = (): void => void this.browser.commands.end();
    client.commands.on('end', over);
    client.commands.on('error', over);
    for (const chunk of this.early.splice(0)) this.toClient(chunk);
    if (this.browser.answers.readableEnded) client.answers.end();
  }

  /** A command of ours, as soon as none of the client's is half said. */
  send(command: string): void {
    this.queue.push(command);
    if (this.between) this.sendQueued();
  }

  /** Nobody listens for us any more: the browser need not tell us anything. */
  release(): void {
    const { root } = this;
    if (root !== undefined)
      this.send(JSON.stringify({ id: firstId + 1, method: 'Target.detachFromTarget', params: { sessionId: root } }));
  }

  private sendQueued(): void {
    for (const command of this.queue.splice(0))
      if (this.browser.commands.writable) this.browser.commands.write(`${command}\0`);
  }

  private commanded(chunk: Buffer): void {
    this.tap('client', 0, chunk);
    if (!this.browser.commands.write(chunk)) this.client?.commands.pause();
    this.between = chunk.at(-1) === 0;
    if (this.between) this.sendQueued();
  }

  private answered(chunk: Buffer): void {
    /** What of this piece goes on to the client: neighbours are joined again. */
    const out: Buffer[] = [];
    let from = 0;
    for (let end = chunk.indexOf(0); end >= 0; end = chunk.indexOf(0, from)) {
      this.keep(chunk.subarray(from, end + 1), out);
      this.over(out);
      from = end + 1;
    }
    if (from < chunk.length) this.keep(chunk.subarray(from), out);
    if (out.length) this.toClient(out.length === 1 ? out[0]! : Buffer.concat(out));
  }

  private keep(part: Buffer, out: Buffer[]): void {
    if (!this.isClients && this.head.length < headLength) {
      this.head += part.toString('latin1', 0, headLength);
      const id = /^\{"id":(\d{1,15}),/.exec(this.head)?.[1];
      // Its answers may be large: they are not held back until they are whole.
      const known = this.head.length >= headLength || this.head.includes('\0');
      this.isClients = known && id !== undefined && Number(id) < firstId && !mayShowOurs.test(this.head);
      if (this.isClients) out.push(...this.parts.splice(0));
    }
    (this.isClients ? out : this.parts).push(part);
  }

  /** A message is whole. */
  private over(out: Buffer[]): void {
    const { parts } = this;
    if (!this.isClients) {
      const message = parts.length === 1 ? parts[0]! : Buffer.concat(parts);
      const bare = message.subarray(0, -1);
      if (this.isOurs(bare)) this.ours(bare);
      else {
        const shown = this.unseen.shown(bare);
        if (shown) out.push(shown === bare ? message : Buffer.concat([shown, endMark]));
      }
    }
    this.parts = [];
    this.head = '';
    this.isClients = false;
  }

  private isOurs(message: Buffer): boolean {
    const { begun, ended } = sessionIn(message);
    const session = sessionAtEnd(message);
    if (session === undefined) {
      // The first that is begun at all is our root: it was asked for before everything else.
      if (begun !== undefined && this.root === undefined) {
        this.root = begun;
        this.sessions.add(begun);
        return true;
      }
      if (message.indexOf(`{"id":${firstId},`) === 0 || message.indexOf(`{"id":${firstId + 1},`) === 0) return true;
      return ended !== undefined && this.sessions.delete(ended);
    }
    if (!this.sessions.has(session)) return false;
    if (begun !== undefined) this.sessions.add(begun);
    if (ended !== undefined) this.sessions.delete(ended);
    return true;
  }

  private toClient(chunk: Buffer): void {
    if (!this.client) return void this.early.push(chunk);
    this.tap('browser', 0, chunk);
    if (!this.client.answers.write(chunk)) this.browser.answers.pause();
  }
}
