import { parentPort } from 'node:worker_threads';

/** The thread's side of `AskedThread`: every question is answered, or told why not. */
export function answering<Question, Answer>(answer: (question: Question) => Answer | Promise<Answer>): void {
  parentPort!.on('message', async ({ ask, question }: { ask: number; question: Question }) => {
    try {
      parentPort!.postMessage({ ask, answer: await answer(question) });
    } catch (error) {
      parentPort!.postMessage({ ask, problem: (error as Error).stack ?? String(error) });
    }
  });
}
