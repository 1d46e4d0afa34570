import { createHash, randomBytes } from 'node:crypto';
import {
  appendFileSync,
  closeSync,
  mkdirSync,
  openSync,
  readdirSync,
  readFileSync,
  readSync,
  renameSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import { homedir } from 'node:os';
import { join } from 'node:path';
import type { Environment } from '../../core/evidence/attempt.ts';
import type { EvidenceEvent } from '../../core/evidence/event.ts';
import { sessionAt, unnamedSession } from '../../core/evidence/session-name.ts';
import { writePack, type PackedAttempt } from '../../core/formats/pack.ts';
import { isoOf } from '../../core/formats/times.ts';
import type { AttemptRequest, EvidenceSink, ToldOutcome } from '../recording/sink.ts';

/** Where evidence waits for a server: below the user's own folder, since a runner may start browsers from anywhere. */
export const spoolFolder = (env: NodeJS.ProcessEnv = process.env): string =>
  env.ISKEL_SPOOL ?? join(homedir(), '.iskel', 'spool');

/** What is known of a spooled attempt; written whole or not at all. */
interface Spooled {
  attempt: PackedAttempt;
  /** Address of the server it is for. */
  to: string;
  done: boolean;
}

const head = 'attempt.json';
const events = 'events.jsonl';
const troubles = 'troubles.log';
/** What could not be taken in lies here, each with the reason. */
export const aside = 'set-aside';
/** Characters of troubles that one browser may tell. */
const mostTroubles = 50_000;

/** A folder of one browser in the spool says who writes it. */
const browserFolder = /^b-(\d{1,10})-[0-9a-f]+$/;

/** Keeps the evidence of one browser in a folder of its own, attempt by attempt, until a server takes it in. */
export class SpoolSink implements EvidenceSink {
  private readonly open = new Map<string, Spooled>();
  readonly keepsBodies = true;

  private readonly folder: string;

  constructor(
    spool: string,
    private readonly to: string,
  ) {
    this.folder = join(spool, `b-${process.pid}-${randomBytes(6).toString('hex')}`);
    mkdirSync(join(this.folder, 'blobs'), { recursive: true, mode: 0o700 });
  }

  newId(): string {
    return `s-${Date.now().toString(36)}-${randomBytes(5).toString('hex')}`;
  }

  begin(id: string, request: AttemptRequest, environment: Environment, startedAt: number): void {
    const { run, test, number, commit, branch, tags, labels, shard, worker, detail } = request;
    mkdirSync(join(this.folder, id), { recursive: true, mode: 0o700 });
    this.open.set(id, {
      attempt: {
        run: {
          name: run ?? `Browsers of ${isoOf(startedAt).slice(0, 10)}`,
          startedAt,
          ...(commit ? { commit } : {}),
          ...(branch ? { branch } : {}),
        },
        test: {
          suite: test?.suite ?? '',
          title: test?.title ?? unnamedSession(startedAt),
          ...(test?.file ? { file: test.file } : {}),
        },
        ...(number === undefined ? {} : { number }),
        outcome: 'unreported',
        environment,
        startedAt,
        durationMs: 0,
        message: '',
        stack: '',
        labels: { tags, labels, shard, worker, detail },
      },
      to: this.to,
      done: false,
    });
    if (test?.title === undefined) this.unnamed.add(id);
    this.writeHead(id);
  }
  private readonly unnamed = new Set<string>();

  write(id: string, list: readonly EvidenceEvent[]): number {
    const text = list.map((event) => `${JSON.stringify(event)}\n`).join('');
    appendFileSync(join(this.folder, id, events), text, { mode: 0o600 });
    return text.length;
  }

  maskAgain(id: string, texts: readonly string[], clean: (event: EvidenceEvent) => EvidenceEvent): Promise<void> {
    const path = join(this.folder, id, events);
    const holds = (line: string): boolean => texts.some((text) => line.includes(text));
    let found = false;
    for (const line of linesIn(path)) found ||= holds(line);
    if (!found) return Promise.resolve();
    const draft = `${path}.draft`;
    rmSync(draft, { force: true });
    for (const line of linesIn(path)) {
      const kept = holds(line) ? JSON.stringify(clean(JSON.parse(line) as EvidenceEvent)) : line;
      appendFileSync(draft, `${kept}\n`, { mode: 0o600 });
    }
    renameSync(draft, path);
    return Promise.resolve();
  }

  /** Kept by their content, once for all attempts of this browser. */
  keep(bytes: Buffer): Promise<string> {
    const name = createHash('sha256').update(bytes).digest('hex');
    writeWhole(join(this.folder, 'blobs', name), bytes);
    return Promise.resolve(name);
  }

  sized(id: string, width: number, height: number): void {
    const one = this.open.get(id);
    if (one) one.attempt.environment = { ...one.attempt.environment, width, height };
  }

  outcome(id: string, { status, message, stack }: ToldOutcome): void {
    const one = this.open.get(id);
    if (one) Object.assign(one.attempt, { outcome: status, message, stack });
  }

  opened(id: string, address: string): void {
    const one = this.open.get(id);
    if (!one || !this.unnamed.delete(id)) return;
    one.attempt.test.title = sessionAt(address, one.attempt.startedAt);
    this.writeHead(id);
  }

  end(id: string, durationMs: number, interrupted?: string): void {
    const one = this.open.get(id);
    if (!one) return;
    one.attempt.durationMs = durationMs;
    if (interrupted) one.attempt.interruptedBy = interrupted;
    one.done = true;
    this.writeHead(id);
    this.open.delete(id);
  }

  /** Nothing was done in it: it was no test. */
  forget(id: string): void {
    this.open.delete(id);
    rmSync(join(this.folder, id), { recursive: true, force: true });
  }

  /** Where whoever misses an attempt finds why: beside the spooled ones, within bounds. */
  trouble(words: string): void {
    this.told += words.length;
    if (this.told > mostTroubles) return;
    try {
      appendFileSync(join(this.folder, '..', troubles), `${isoOf(Date.now())} ${words}\n`, { mode: 0o600 });
    } catch {
      // a full disk says so by itself
    }
  }
  private told = 0;

  /** Nothing more is recorded: when all of it is delivered, its folder goes. */
  close(): void {
    if (namesIn(this.folder).every((name) => !name.startsWith('s-')))
      rmSync(this.folder, { recursive: true, force: true });
  }

  private writeHead(id: string): void {
    writeWhole(join(this.folder, id, head), Buffer.from(JSON.stringify(this.open.get(id))));
  }
}

/** A file appears whole or not at all. */
function writeWhole(path: string, bytes: Buffer): void {
  const draft = `${path}.${process.pid}.draft`;
  writeFileSync(draft, bytes, { mode: 0o600 });
  renameSync(draft, path);
}

const pieceBytes = 1024 * 1024;
/** A line that is longer is no event. */
const longestLine = 16 * 1024 * 1024;

/** The lines of a file, a piece of it in memory at a time; none where there is no file. */
function* linesIn(path: string): Generator<string> {
  let fd: number;
  try {
    fd = openSync(path, 'r');
  } catch {
    return;
  }
  try {
    const decoder = new TextDecoder();
    const piece = Buffer.alloc(pieceBytes);
    let rest = '';
    for (;;) {
      const got = readSync(fd, piece, 0, pieceBytes, null);
      rest += decoder.decode(piece.subarray(0, got), { stream: got > 0 });
      const lines = rest.split('\n');
      rest = got > 0 ? lines.pop()! : '';
      if (rest.length > longestLine) rest = '';
      yield* lines.filter((line) => line !== '');
      if (got === 0) return;
    }
  } finally {
    closeSync(fd);
  }
}

/** The events of a spooled attempt; a line that was cut by a kill is left out. */
function* eventsIn(folder: string): Generator<EvidenceEvent> {
  for (const line of linesIn(join(folder, events))) {
    let event: EvidenceEvent;
    try {
      event = JSON.parse(line) as EvidenceEvent;
    } catch {
      continue;
    }
    yield event;
  }
}

/** Whether anything was done in it; read no further than to the first step. */
function hasStep(folder: string): boolean {
  for (const { lane } of eventsIn(folder)) if (lane === 'step') return true;
  return false;
}

/** A spooled attempt that is whole, or whose recorder is gone. */
export interface Ready {
  id: string;
  /** Address of the server it is for. */
  to: string;
  /** Bytes of its events, and when they were written last, epoch ms. */
  size: number;
  writtenAt: number;
  attempt: () => PackedAttempt;
  events: () => Iterable<EvidenceEvent>;
  /** Its pictures and structures that are there, with their names. */
  blobs: () => Iterable<{ name: string; mime: string; read: () => Buffer }>;
  pack: () => Uint8Array;
  remove: () => void;
  /** Out of the way of the others, with the reason beside it. */
  setAside: (why: string) => void;
}

/** What waits in a spool and is ready to be delivered; what is left of delivered browsers is cleared away. */
export function readyIn(spool: string): Ready[] {
  return namesIn(spool).flatMap((name) => {
    const pid = browserFolder.exec(name)?.[1];
    if (pid === undefined) return [];
    const folder = join(spool, name);
    const attempts = namesIn(folder).filter((one) => one.startsWith('s-'));
    const running = isRunning(Number(pid));
    if (attempts.length === 0 && !running) rmSync(folder, { recursive: true, force: true });
    return attempts.flatMap((id) => {
      const own = join(folder, id);
      const spooled = headOf(own);
      if (!spooled || (!spooled.done && running)) return [];
      const remove = (): void => rmSync(own, { recursive: true, force: true });
      if (!spooled.done && !hasStep(own)) {
        // Cut short before anything was done in it: no test was there.
        remove();
        return [];
      }
      const stat = statSync(join(own, events), { throwIfNoEntry: false });
      const attempt = (): PackedAttempt => wholeAttempt(own, spooled);
      const blobs = (): ReturnType<Ready['blobs']> => blobsOf(folder, own);
      return [
        {
          id,
          to: String(spooled.to),
          size: stat?.size ?? 0,
          writtenAt: stat?.mtimeMs ?? statSync(own).mtimeMs,
          attempt,
          events: () => eventsIn(own),
          blobs,
          pack: () => packOf(attempt(), [...eventsIn(own)], blobs()),
          remove,
          setAside: (why) => {
            const place = join(spool, aside, `${name}-${id}`);
            mkdirSync(join(spool, aside), { recursive: true, mode: 0o700 });
            renameSync(own, place);
            writeFileSync(join(place, 'why.txt'), `${why}\n`, { mode: 0o600 });
          },
        },
      ];
    });
  });
}

/** What nobody fetched in so long is of no use to anybody, ms; a spool takes no more than this, bytes. */
const spoolBounds = { age: 60 * 86_400_000, bytes: 20 * 1024 ** 3 };

/**
 * Keeps a spool within its bounds: what is too old goes, and the oldest where there is too much. What is being written
 * stays.
 * @returns what went
 */
export function boundSpool(spool: string, { age, bytes } = spoolBounds, now = Date.now()): string[] {
  const gone: string[] = [];
  const kept = [...namesIn(spool), ...namesIn(join(spool, aside)).map((name) => join(aside, name))]
    .filter((name) => browserFolder.test(name.split('/').at(-1)!.split('-s-')[0]!))
    .map((name) => ({ name, ...weightOf(join(spool, name)) }))
    .filter(({ name }) => name.startsWith(aside) || !isRunning(Number(browserFolder.exec(name)![1])))
    .sort((a, b) => b.writtenAt - a.writtenAt);
  let left = bytes;
  for (const { name, size, writtenAt } of kept) {
    left -= size;
    if (left >= 0 && now - writtenAt <= age) continue;
    rmSync(join(spool, name), { recursive: true, force: true });
    gone.push(name);
  }
  return gone;
}

/** Bytes of all that lies in a folder, and when the newest of it was written. */
function weightOf(path: string): { size: number; writtenAt: number } {
  const found = statSync(path, { throwIfNoEntry: false });
  if (!found) return { size: 0, writtenAt: 0 };
  if (!found.isDirectory()) return { size: found.size, writtenAt: found.mtimeMs };
  return namesIn(path)
    .map((name) => weightOf(join(path, name)))
    .reduce((a, b) => ({ size: a.size + b.size, writtenAt: Math.max(a.writtenAt, b.writtenAt) }), {
      size: 0,
      writtenAt: found.mtimeMs,
    });
}

function namesIn(folder: string): string[] {
  try {
    return readdirSync(folder);
  } catch {
    return [];
  }
}

function headOf(own: string): Spooled | undefined {
  try {
    return JSON.parse(readFileSync(join(own, head), 'utf8')) as Spooled;
  } catch {
    return undefined;
  }
}

function wholeAttempt(own: string, { attempt, done }: Spooled): PackedAttempt {
  if (done) return attempt;
  let last = 0;
  for (const { at, until } of eventsIn(own)) last = Math.max(last, until ?? at);
  return { ...attempt, durationMs: last, interruptedBy: 'its recorder was killed' };
}

function* blobsOf(folder: string, own: string): ReturnType<Ready['blobs']> & Generator {
  const seen = new Set<string>();
  for (const event of eventsIn(own)) {
    const name = event.lane === 'screen' || event.lane === 'page' ? event.data?.blob : undefined;
    if (typeof name !== 'string' || !/^[0-9a-f]{64}$/.test(name) || seen.has(name)) continue;
    seen.add(name);
    const path = join(folder, 'blobs', name);
    // A killed recorder had not written it.
    if (!statSync(path, { throwIfNoEntry: false })?.isFile()) continue;
    yield {
      name,
      mime: event.lane === 'screen' ? String(event.data.mime) : 'text/html',
      read: () => readFileSync(path),
    };
  }
}

function packOf(
  attempt: PackedAttempt,
  list: EvidenceEvent[],
  blobs: Iterable<{ name: string; mime: string; read: () => Buffer }>,
): Uint8Array {
  const kept = new Map<string, { bytes: Uint8Array; mime: string }>();
  for (const { name, mime, read } of blobs) kept.set(name, { bytes: read(), mime });
  return writePack({ attempt, events: list, blobs: kept });
}

function isRunning(pid: number): boolean {
  try {
    process.kill(pid, 0);
    return true;
  } catch (error) {
    // Who may not send it a signal is told so, and it runs.
    return (error as NodeJS.ErrnoException).code === 'EPERM';
  }
}
