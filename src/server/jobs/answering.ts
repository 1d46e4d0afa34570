import { parentPort } from 'node:worker_threads';
import { asError, background } from '../../core/background.ts';

/** Bytes that an answer has for itself go with it; a copy of them may be what memory does not hold. */
function handedOver(answer: unknown): ArrayBuffer[] {
  const { bytes } = (answer ?? {}) as { bytes?: unknown };
  const own = bytes instanceof Uint8Array && bytes.byteLength === bytes.buffer.byteLength;
  return own ? [bytes.buffer as ArrayBuffer] : [];
}

/** The thread's side of `AskedThread`: every question is answered, or told why not. */
export function answering<Question, Answer>(answer: (question: Question) => Answer | Promise<Answer>): void {
  const port = parentPort!;
  const reply = async ({ ask, question }: { ask: number; question: Question }): Promise<void> => {
    try {
      const told = await answer(question);
      port.postMessage({ ask, answer: told }, handedOver(told));
    } catch (error) {
      port.postMessage({ ask, problem: asError(error).stack ?? asError(error).message });
    }
  };
  port.on('message', (asked: { ask: number; question: Question } | string) => {
    if (typeof asked !== 'string') background('answering', reply(asked));
  });
}
