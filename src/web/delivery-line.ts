import { RefusedCall, type Line } from '../core/delivery/deliver.ts';
import { api, ApiError, errorOf } from './api.ts';
import type { Dropped } from './upload.ts';

const unreachable = (): RefusedCall =>
  new RefusedCall(
    0,
    'unreachable',
    'Iskel does not answer. Is the server still running? What was sent is kept; drop the same files again once it runs.',
  );

const refused = (error: ApiError): RefusedCall =>
  error.status === 0 ? unreachable() : new RefusedCall(error.status, error.code, error.message);

const ask: Line<Blob>['ask'] = (method, path, body) =>
  api<never>(method, path, body).catch((error: unknown) => {
    throw error instanceof ApiError ? refused(error) : error;
  });

/** The page's way of sending a delivery; `stop` breaks off what is on its way. */
export function pageLine(stop: AbortSignal): Line<Blob> {
  return {
    ask,
    // Only this kind of request tells how much of a piece has gone.
    put: (path, piece, sent) =>
      new Promise((done, fail) => {
        const request = new XMLHttpRequest();
        request.open('PUT', `/api${path}`);
        request.upload.onprogress = ({ loaded }) => sent(loaded);
        request.onload = () => {
          const told: unknown = JSON.parse(request.responseText || '{}');
          if (request.status === 200) done(told as { have: number });
          else fail(refused(errorOf(request.status, told)));
        };
        request.onerror = () => fail(unreachable());
        request.onabort = () => fail(new RefusedCall(0, 'stopped', 'It was stopped; nothing of it is kept.'));
        stop.addEventListener('abort', () => request.abort(), { once: true });
        request.send(piece);
      }),
    pause: (ms) => new Promise((done) => setTimeout(done, ms)),
  };
}

const shelf = 'iskel.deliveries';
const mostKept = 20;

/** A short mark of a list of files; only to find one's own key again. */
function markOf(files: readonly Dropped[]): string {
  let mark = 0;
  for (const { path, file } of files)
    for (const char of `${path} ${file.size} ${file.lastModified}\n`)
      mark = (Math.imul(mark, 31) + char.codePointAt(0)!) >>> 0;
  return `${files.length}-${mark.toString(16)}`;
}

/** The key of a delivery: dropped again after this page was left, the same files have the same. */
export function keyOf(files: readonly Dropped[]): string {
  const mark = markOf(files);
  let kept: [string, string][] = [];
  try {
    kept = JSON.parse(localStorage.getItem(shelf) ?? '[]') as [string, string][];
  } catch {
    // What cannot be read is begun anew.
  }
  const known = kept.find(([one]) => one === mark)?.[1];
  const bytes = crypto.getRandomValues(new Uint8Array(32));
  const key = known ?? [...bytes].map((byte) => byte.toString(16).padStart(2, '0')).join('');
  try {
    localStorage.setItem(
      shelf,
      JSON.stringify([[mark, key], ...kept.filter(([one]) => one !== mark)].slice(0, mostKept)),
    );
  } catch {
    // A page without storage sends all of it again.
  }
  return key;
}
