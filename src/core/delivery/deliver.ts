import type { DeliveryView, IntakeResult } from '../records.ts';

/** A file as its sender has it. */
export interface Sendable<Piece> {
  name: string;
  size: number;
  /** Epoch ms. */
  modifiedAt?: number;
  /** The bytes from one place up to another. */
  piece(from: number, until: number): Piece | Promise<Piece>;
}

/** An answer that is no success. */
export class RefusedCall extends Error {
  /** @param status of HTTP; 0 when nobody answered */
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
  ) {
    super(message);
  }
}

/** How the sender reaches Iskel. Each call throws a RefusedCall when it does not succeed. */
export interface Line<Piece> {
  ask<T>(method: 'GET' | 'POST' | 'DELETE', path: string, body?: object): Promise<T>;
  /** @param sent is told how many bytes of the piece have gone */
  put(path: string, piece: Piece, sent: (bytes: number) => void): Promise<{ have: number }>;
  pause(ms: number): Promise<void>;
}

export interface Delivering<Piece> {
  /** 64 hexadecimal digits that only the sender knows; the same again goes on where it was. */
  key: string;
  files: readonly Sendable<Piece>[];
  fields: { run?: string; labels?: Record<string, string>; zone?: number; secrets?: readonly string[] };
  line: Line<Piece>;
  /** How far it is; `sent` counts what is on its way as well. */
  told?: (view: DeliveryView) => void;
  stopped?: () => boolean;
  /** How long an Iskel that does not answer is waited for, ms. */
  patienceMs?: number;
}

/** A piece is small enough to be sent again without a thought. */
const pieceSize = 8 * 1024 ** 2;
const pauses = [200, 500, 1000, 2000];
/** Worth trying again: nobody answered, or the one who did has been started anew or is short of something. */
const passes = ({ status, code }: RefusedCall): boolean =>
  status === 0 ||
  status === 429 ||
  status === 503 ||
  code === 'not-open' ||
  code === 'elsewhere' ||
  code === 'broken-off' ||
  code === 'stopping';

/**
 * Sends a delivery file by file and waits for what comes of it. Whatever breaks on the way, a server that is started anew
 * included, is gone on with where it was.
 * @returns what came of it
 * @throws RefusedCall in words when it cannot be sent or taken, or was stopped
 */
export async function deliver<Piece>(work: Delivering<Piece>): Promise<{ id: string; result: IntakeResult }> {
  const { line, patienceMs = 60_000 } = work;
  let since: number | undefined;
  const mine = { begun: false };
  for (let tries = 0; ; tries++) {
    try {
      return await once(work, mine, () => {
        since = undefined;
        tries = 0;
      });
    } catch (error) {
      if (!(error instanceof RefusedCall) || !passes(error) || work.stopped?.()) throw error;
      since ??= Date.now();
      if (Date.now() - since > patienceMs) throw error;
      await line.pause(pauses[Math.min(tries, pauses.length - 1)]!);
    }
  }
}

interface Begun {
  id: string;
  have: number[];
  view: DeliveryView;
}

async function once<Piece>(
  work: Delivering<Piece>,
  mine: { begun: boolean },
  moved: () => void,
): Promise<{ id: string; result: IntakeResult }> {
  const { key, files, fields, line, told, stopped } = work;
  const sureToGoOn = (): void => {
    if (stopped?.()) throw new RefusedCall(0, 'stopped', 'it was stopped');
  };
  const list = files.map(({ name, size, modifiedAt }) => ({ name, size, ...(modifiedAt ? { modifiedAt } : {}) }));
  const announce = (): Promise<Begun> => line.ask<Begun>('POST', '/deliveries', { key, files: list, ...fields });
  let begun = await announce();
  // The same was given, and ended, before: it is given again.
  if (!mine.begun && (begun.view.state === 'done' || begun.view.state === 'failed')) {
    await line.ask('DELETE', `/deliveries/${begun.id}`);
    begun = await announce();
  }
  mine.begun = true;
  const { id, have, view } = begun;
  let sent = have.reduce((sum, one) => sum + one, 0);
  const tell = (extra = 0): void => told?.({ ...view, sent: sent + extra });
  tell();
  if (view.state === 'receiving') {
    for (const [number, file] of files.entries()) {
      for (let at = have[number] ?? 0; at < file.size;) {
        sureToGoOn();
        const until = Math.min(file.size, at + pieceSize);
        const piece = await file.piece(at, until);
        const came = await line.put(`/deliveries/${id}/files/${number}?from=${at}`, piece, tell);
        sent += came.have - at;
        at = came.have;
        moved();
        tell();
      }
    }
    sureToGoOn();
    await line.ask('POST', `/deliveries/${id}/take`);
  }
  for (;;) {
    const now = await line.ask<DeliveryView>('GET', `/deliveries/${id}`);
    told?.(now);
    if (now.state === 'done' && now.result) return { id, result: now.result };
    if (now.state === 'failed') throw new RefusedCall(422, 'not-taken', now.problem ?? 'it could not be taken in');
    // Started anew meanwhile: what has come is there, and is announced again.
    if (now.state === 'receiving') throw new RefusedCall(404, 'not-open', 'Iskel was started anew');
    moved();
    sureToGoOn();
    await line.pause(now.state === 'waiting' || now.size < pieceSize ? 100 : 400);
  }
}
