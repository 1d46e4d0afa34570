import { parentPort } from 'node:worker_threads';

/** The thread's side of `AskedThread`: every question is answered, or told why not. */
export function answering<Question, Answer>(answer: (question: Question) => Answer): void {
  parentPort!.on('message', ({ ask, question }: { ask: number; question: Question }) => {
    try {
      parentPort!.postMessage({ ask, answer: answer(question) });
    } catch (error) {
      parentPort!.postMessage({ ask, problem: (error as Error).stack ?? String(error) });
    }
  });
}
