import type { Finding } from '../core/vision/compare.ts';
import type { Compared, VisionAnswer, VisionAsk } from './workers/vision.ts';

let worker: Worker | undefined;
let asked = 0;
const waiting = new Map<number, { done: (answer: VisionAnswer) => void; fail: (error: Error) => void }>();

function ask(
  what: VisionAsk extends infer A ? (A extends VisionAsk ? Omit<A, 'id'> : never) : never,
): Promise<VisionAnswer> {
  if (!worker) {
    worker = new Worker(new URL('./workers/vision.ts', import.meta.url), { type: 'module' });
    worker.onmessage = ({ data }: MessageEvent<VisionAnswer>) => {
      const one = waiting.get(data.id);
      waiting.delete(data.id);
      if ('error' in data) one?.fail(new Error(data.error));
      else one?.done(data);
    };
  }
  worker.onerror = () => {
    // Nothing that was asked of it will be answered; the next question starts another.
    worker = undefined;
    for (const one of waiting.values()) one.fail(new Error('the comparison could not be run in this browser'));
    waiting.clear();
  };
  const id = ++asked;
  worker.postMessage({ ...what, id });
  return new Promise((done, fail) => waiting.set(id, { done, fail }));
}

/** Two pictures compared beside the page's own thread. @throws Error in words when one cannot be read */
export async function comparePicturesOf(a: string, b: string): Promise<Compared> {
  const answer = await ask({ kind: 'compare', a, b });
  if (!('compared' in answer)) throw new Error('the pictures were not compared');
  return answer.compared;
}

/** The times of a film's frames, ms on its own clock. @throws Error in words when it cannot be read */
export async function framesOfFilm(film: string): Promise<{ times: number[]; problem?: string }> {
  const answer = await ask({ kind: 'frames', film });
  if (!('frames' in answer)) throw new Error('the film was not read');
  return answer.frames;
}

/** What a picture shows by itself: blank, loading, broken off. Asked once a picture. */
export function lookAt(picture: string): Promise<Finding[]> {
  let known = looked.get(picture);
  if (!known) {
    known = ask({ kind: 'look', picture }).then(
      (answer) => ('findings' in answer ? answer.findings : []),
      (error: Error) => [{ kind: 'broken-off' as const, words: `the picture cannot be shown: ${error.message}` }],
    );
    looked.set(picture, known);
    if (looked.size > mostLooked) looked.delete(looked.keys().next().value!);
  }
  return known;
}
const looked = new Map<string, Promise<Finding[]>>();
const mostLooked = 500;
