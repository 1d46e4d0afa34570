import { parentPort } from 'node:worker_threads';
import { asError, background } from '../../core/background.ts';

/** The thread's side of `AskedThread`: every question is answered, or told why not. */
export function answering<Question, Answer>(answer: (question: Question) => Answer | Promise<Answer>): void {
  const port = parentPort!;
  const reply = async ({ ask, question }: { ask: number; question: Question }): Promise<void> => {
    try {
      port.postMessage({ ask, answer: await answer(question) });
    } catch (error) {
      port.postMessage({ ask, problem: asError(error).stack ?? asError(error).message });
    }
  };
  port.on('message', (asked: { ask: number; question: Question } | string) => {
    if (typeof asked !== 'string') background('answering', reply(asked));
  });
}
