import { parentPort, workerData } from 'node:worker_threads';
import { background, guarded, tellTroubles } from '../../core/background.ts';
import { clock } from '../recording/clock.ts';
import type { AttemptRequest } from '../recording/sink.ts';
import { portDoor } from '../debugging-door.ts';
import { BidiClientSteps } from './bidi-client-steps.ts';
import { BrowserWatch } from './browser-watch.ts';
import { ClientSteps } from './client-steps.ts';
import { deliver } from './deliver.ts';
import { chromiumThrough } from './mapper-link.ts';
import { NulMessages } from './nul-messages.ts';
import { PipeDoor } from './pipe-door.ts';
import { SharedBidi } from './shared-bidi.ts';
import { SocketMessages } from './socket-messages.ts';
import { boundSpool, SpoolSink } from './spool.ts';
import type { WatchedBrowser } from './watched-browser.ts';

/** What the thread is given to do. */
export interface RecordingTask {
  request: AttemptRequest;
  /** By which the browser knows all sources of ours. */
  name: string;
  /** Address of the server the evidence is for. */
  to: string;
  token: string | undefined;
  spool: string;
  /** Whether somebody else delivers what is spooled. */
  later: boolean;
}

/** One piece of what is passed on, as it was passed; over BiDi, a whole message. */
export interface Passed {
  from: 'client' | 'browser';
  connection: number;
  over: 'pipe' | 'port' | 'bidi';
  chunk: Uint8Array;
  at: number;
}

/**
 * The browser's door for us: the pipe or the BiDi connection it shares with its client, or host and port. A BiDi session
 * says with what it began.
 */
export type Door = 'pipe' | { capabilities: Record<string, unknown> } | string;

/**
 * What the thread is told: where the browser is watched from; what it said to us on what is shared; what was passed on
 * lately, in its order; and that the browser is gone.
 */
export type Heard =
  | { door: Door }
  | { ours: readonly Uint8Array[] }
  | { passed: readonly Passed[] }
  | { ended: true; interrupted?: string; limitMs: number };

/** What the thread tells: it is watching, it says something to the browser, what went wrong, it has read so many bytes more, it is done. */
export type Told = { watching: boolean } | { say: string } | { trouble: string } | { read: number } | { done: true };

const task = workerData as RecordingTask;
const asBuffer = (bytes: Uint8Array): Buffer => Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength);
const tell = (told: Told): void => parentPort!.postMessage(told);
/** How often it is looked whether an input is over, ms. */
const lookEveryMs = 300;
/** A server that takes longer takes what is spooled another time, ms. */
const mostDeliveryMs = 30_000;

// Records a browser beside those who drive it, in a thread of its own: whatever happens here, what is passed on is not touched.
const sink = new SpoolSink(task.spool, task.to);
guarded('keeping the spool within its bounds', () => boundSpool(task.spool));
/** What went wrong is said at once, and once. */
const said = new Set<string>();
const say = (text: string): void => {
  sink.trouble(text);
  const kind = text.replace(/\b[as]-[\w-]+/g, '…');
  if (said.size < 20 && !said.has(kind)) tell({ trouble: text });
  said.add(kind);
};
tellTroubles(({ what, error, about }) => say(`${what}${about ? ` (${about})` : ''}: ${error.message}`));
const connections = new Map<
  number,
  {
    push: (from: 'client' | 'browser', chunk: Buffer, at: number) => void;
    steps: () => Pick<ClientSteps, 'passes' | 'end'> | undefined;
    idle: () => Promise<void>;
  }
>();
let watch: BrowserWatch | undefined;
/** It could not be watched: what is passed on goes by unread. */
let blind = false;
const early: Parameters<typeof take>[0][] = [];
const pipe = new PipeDoor((command) => tell({ say: command }), task.name);
const bidi = new SharedBidi((command) => tell({ say: command }));
/** What the browser says to us goes there. */
let hearOurs: (message: Buffer) => void = (message) => pipe.hear(message);

function connect(over: Passed['over'], listener: BrowserWatch): NonNullable<ReturnType<typeof connections.get>> {
  let steps: ClientSteps | undefined;
  const told = (from: 'client' | 'browser', message: Buffer | undefined, at: number): void => {
    if (message && steps) guarded('reading a message', () => steps![from](message, at));
  };
  if (over === 'bidi') {
    const client = new BidiClientSteps(listener);
    return {
      push: (from, message, at) => client[from](message.toString(), at),
      steps: () => client,
      idle: () => Promise.resolve(),
    };
  }
  if (over === 'pipe') {
    let now = 0;
    steps = new ClientSteps(listener);
    const sides = {
      client: new NulMessages((one) => told('client', one, now)),
      browser: new NulMessages((one) => told('browser', one, now)),
    };
    return {
      push: (from, chunk, at) => ((now = at), sides[from].push(chunk)),
      steps: () => steps,
      idle: () => Promise.resolve(),
    };
  }
  const messages = new SocketMessages(
    (path) => {
      const page = /^\/devtools\/page\/(\w{1,100})/.exec(path)?.[1];
      steps = new ClientSteps(listener, page);
    },
    told,
    (why) => say(`a connection to the port cannot be read: ${why}`),
  );
  return { push: (from, chunk, at) => messages.push(from, chunk, at), steps: () => steps, idle: () => messages.idle() };
}

function take(heard: Extract<Heard, { passed: unknown } | { ended: unknown }>): void {
  if ('ended' in heard) return void end(heard.limitMs, heard.interrupted);
  let read = 0;
  for (const passed of heard.passed) {
    read += passed.chunk.length;
    if (watch) guarded('recording a browser', () => follow(passed, watch!));
  }
  tell({ read });
}

function follow({ from, connection, over, chunk, at }: Passed, listener: BrowserWatch): void {
  let one = connections.get(connection);
  if (!one) connections.set(connection, (one = connect(over, listener)));
  one.push(from, asBuffer(chunk), at);
}

/** One delivery after the other: each takes all that is whole by then. */
let delivering: Promise<unknown> = Promise.resolve();

function deliverSoon(until: number): Promise<unknown> {
  if (task.later) return Promise.resolve();
  delivering = delivering
    .then(() =>
      deliver(task.spool, {
        token: task.token,
        tokenFor: task.to,
        limitMs: Math.min(mostDeliveryMs, until - Date.now()),
      }),
    )
    .then(({ left }) => {
      for (const { id, why } of left) say(`${id} waits to be delivered: ${why}`);
    })
    // What is spooled is delivered another time.
    .catch(() => undefined);
  return delivering;
}

async function end(limitMs: number, interrupted?: string): Promise<void> {
  const until = Date.now() + limitMs;
  try {
    // What was compressed may not be read yet.
    const read = Promise.all([...connections.values()].map((one) => one.idle()));
    await Promise.race([read, new Promise((done) => setTimeout(done, limitMs / 4))]);
    for (const { steps } of connections.values()) steps()?.end(clock());
    pipe.end();
    bidi.end();
    await watch?.end(interrupted);
    await Promise.race([deliverSoon(until), new Promise((done) => setTimeout(done, Math.max(0, until - Date.now())))]);
    sink.close();
  } catch {
    // the spool is as it was
  }
  tell({ done: true });
}

parentPort!.on('message', (heard: Heard) => {
  if ('door' in heard) return watchFrom(heard.door);
  if ('ours' in heard) {
    for (const one of heard.ours) guarded('reading what a browser told', () => hearOurs(asBuffer(one)));
    return;
  }
  if (watch || blind || 'ended' in heard) guarded('recording a browser', () => take(heard));
  else early.push(heard);
});
setInterval(() => {
  for (const { steps } of connections.values()) guarded('joining input', () => steps()?.passes(clock()));
}, lookEveryMs).unref();

function watched(door: Door): WatchedBrowser {
  if (typeof door === 'string') return chromiumThrough(door === 'pipe' ? pipe : portDoor(door));
  hearOurs = (message) => bidi.hear(message);
  return bidi.browser(door.capabilities);
}

function watchFrom(door: Door): void {
  BrowserWatch.start(watched(door), sink, task.request, (id, used) => {
    if (used) background('delivering what was recorded', deliverSoon(Infinity), id);
    else sink.forget(id);
  }).then(
    (started) => {
      watch = started;
      tell({ watching: true });
      for (const heard of early.splice(0)) guarded('recording a browser', () => take(heard));
    },
    (error: Error) => {
      blind = true;
      say(`this browser could not be watched: ${error.message}`);
      tell({ watching: false });
      for (const heard of early.splice(0)) take(heard);
    },
  );
}
