import { createHmac, randomBytes } from 'node:crypto';
import { mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { open } from 'node:fs/promises';
import { homedir } from 'node:os';
import { basename, join, resolve } from 'node:path';
import { deliver, RefusedCall, type Line, type Sendable } from '../core/delivery/deliver.ts';
import type { DeliveryView, IntakeResult } from '../core/records.ts';
import { CliError, describeFile, type Home, type LocalFile } from './home.ts';

/** All files of the given paths; folders whole, under their own names. */
export function filesOf(paths: readonly string[]): LocalFile[] {
  return paths.flatMap((path) => {
    let stat;
    try {
      stat = statSync(path);
    } catch {
      throw new CliError(`there is no file or folder “${path}”`, 2);
    }
    if (!stat.isDirectory()) return [describeFile(path, basename(path))];
    return filesBelow(path);
  });
}

/**
 * Everything below a folder, under the folder's own name.
 * @param gone what of it cannot be looked at is told here, and left out; else it throws
 */
export function filesBelow(
  folder: string,
  gone: (error: unknown) => void = (error) => {
    throw error;
  },
): LocalFile[] {
  const out: LocalFile[] = [];
  const walk = (path: string, name: string): void => {
    try {
      for (const entry of readdirSync(path, { withFileTypes: true })) {
        const [full, inside] = [join(path, entry.name), join(name, entry.name)];
        if (entry.isDirectory()) walk(full, inside);
        else if (entry.isFile()) look(full, inside);
      }
    } catch (error) {
      gone(error);
    }
  };
  const look = (full: string, name: string): void => {
    try {
      out.push(describeFile(full, name));
    } catch (error) {
      gone(error);
    }
  };
  walk(folder, basename(resolve(folder)));
  return out;
}

export interface IntakeOptions {
  run?: string;
  label: Record<string, string>;
  zone?: string;
  secret: string[];
}

/** What keys of deliveries are made of; the same as long as this user has this home. */
function ownSecret(): Buffer {
  const folder = join(homedir(), '.iskel');
  const path = join(folder, 'delivery-secret');
  try {
    const known = readFileSync(path);
    if (known.length === 32) return known;
  } catch {
    // The first time, or a home that cannot be read.
  }
  const made = randomBytes(32);
  try {
    mkdirSync(folder, { recursive: true, mode: 0o700 });
    writeFileSync(path, made, { mode: 0o600 });
  } catch {
    // Without a home this delivery cannot be gone on with by another call; within this one it can.
  }
  return made;
}

/** The same paths with the same files have the same key, so that a call that was broken off is gone on with. */
const keyOf = (files: readonly LocalFile[]): string =>
  createHmac('sha256', ownSecret())
    .update(JSON.stringify(files.map(({ path, size, modifiedAt }) => [resolve(path), size, modifiedAt])))
    .digest('hex');

const sendable = ({ path, name, size, modifiedAt }: LocalFile): Sendable<Buffer> => ({
  name,
  size,
  modifiedAt,
  piece: async (from, until) => {
    const file = await open(path, 'r');
    try {
      const out = Buffer.alloc(until - from);
      let done = 0;
      while (done < out.length) {
        const { bytesRead } = await file.read(out, done, out.length - done, from + done);
        if (!bytesRead) throw new CliError(`“${path}” became shorter while it was sent; call again`);
        done += bytesRead;
      }
      return out;
    } finally {
      await file.close();
    }
  },
});

function lineTo({ address, headers }: Home): Line<Buffer> {
  const call = async <T>(method: string, path: string, body?: string | Buffer): Promise<T> => {
    const sent = body === undefined ? {} : { body, headers: { ...headers, 'content-type': bodyType(body) } };
    const answer = await fetch(`${address}/api${path}`, { method, headers, ...sent } as RequestInit).catch(() => {
      throw new RefusedCall(0, 'unreachable', `Iskel at ${address} does not answer; what was sent is kept, call again`);
    });
    const told = (await answer.json().catch(() => ({}))) as T & { error?: { code: string; message: string } };
    if (!answer.ok)
      throw new RefusedCall(
        answer.status,
        told.error?.code ?? 'failed',
        told.error?.message ?? `the delivery failed with status ${answer.status}`,
      );
    return told;
  };
  return {
    ask: (method, path, body) => call(method, path, body && JSON.stringify(body)),
    put: (path, piece) => call('PUT', path, piece),
    pause: (ms) => new Promise((done) => setTimeout(done, ms)),
  };
}

const bodyType = (body: string | Buffer): string =>
  typeof body === 'string' ? 'application/json' : 'application/octet-stream';

/** Sends files to the server's intake and tells how far it is. What was broken off is gone on with. */
export async function takeIn(
  home: Home,
  files: readonly LocalFile[],
  options: IntakeOptions,
  told: (now: DeliveryView) => void = () => undefined,
): Promise<IntakeResult> {
  if (!files.length) throw new CliError('there is no file in what was given', 2);
  const zone = options.zone === undefined ? undefined : Number(options.zone);
  if (zone !== undefined && !Number.isInteger(zone))
    throw new CliError(`--zone is minutes east of UTC, got “${options.zone}”`, 2);
  try {
    const { result } = await deliver({
      key: keyOf(files),
      files: files.map(sendable),
      fields: {
        ...(options.run ? { run: options.run } : {}),
        ...(zone === undefined ? {} : { zone }),
        ...(Object.keys(options.label).length ? { labels: options.label } : {}),
        ...(options.secret.length ? { secrets: options.secret } : {}),
      },
      line: lineTo(home),
      told,
    });
    return result;
  } catch (error) {
    throw error instanceof RefusedCall ? new CliError(error.message) : error;
  }
}
