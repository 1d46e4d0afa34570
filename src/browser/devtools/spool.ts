import { createHash, randomBytes } from 'node:crypto';
import { appendFileSync, mkdirSync, readdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
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

/** The events of a spooled attempt; a line that was cut by a kill is left out. */
function eventsIn(folder: string): EvidenceEvent[] {
  let text = '';
  try {
    text = readFileSync(join(folder, events), 'utf8');
  } catch {
    // none came
  }
  return text.split('\n').flatMap((line) => {
    try {
      return line ? [JSON.parse(line) as EvidenceEvent] : [];
    } catch {
      return [];
    }
  });
}

/** A spooled attempt that is whole, or whose recorder is gone. */
export interface Ready {
  id: string;
  /** Address of the server it is for. */
  to: string;
  pack: () => Uint8Array;
  remove: () => void;
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
      if (!spooled.done && !eventsIn(own).some(({ lane }) => lane === 'step')) {
        // Cut short before anything was done in it: no test was there.
        remove();
        return [];
      }
      return [{ id, to: spooled.to, pack: () => packOf(folder, own, spooled), remove }];
    });
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

function packOf(folder: string, own: string, { attempt, done }: Spooled): Uint8Array {
  const list = eventsIn(own);
  const last = list.reduce((latest, { at, until }) => Math.max(latest, until ?? at), 0);
  const whole = done ? attempt : { ...attempt, durationMs: last, interruptedBy: 'its recorder was killed' };
  const kept = new Map<string, { bytes: Uint8Array; mime: string }>();
  for (const event of list) {
    const name = event.lane === 'screen' || event.lane === 'page' ? event.data.blob : undefined;
    if (name === undefined || kept.has(name)) continue;
    try {
      const bytes = readFileSync(join(folder, 'blobs', name));
      kept.set(name, { bytes, mime: event.lane === 'screen' ? event.data.mime : 'text/html' });
    } catch {
      // a killed recorder had not written it
    }
  }
  return writePack({ attempt: whole, events: list, blobs: kept });
}

function isRunning(pid: number): boolean {
  try {
    process.kill(pid, 0);
    return true;
  } catch {
    return false;
  }
}
