import { asError, background } from '../../core/background.ts';

/** Said to a sender, with what to do. */
export class DeliveryTrouble extends Error {
  constructor(
    readonly status: 400 | 404 | 409 | 410 | 507,
    readonly code: string,
    message: string,
  ) {
    super(message);
  }
}

/** What went wrong while a file came, for its sender. */
export function troubleOf(error: unknown, have: number): DeliveryTrouble {
  if (error instanceof DeliveryTrouble) return error;
  const { message, code } = asError(error) as NodeJS.ErrnoException;
  return code === 'ENOSPC'
    ? new DeliveryTrouble(507, 'no-room', 'the disk is full; make room and go on, what has come is kept')
    : new DeliveryTrouble(400, 'broken-off', `the file broke off after ${have} bytes: ${message}; go on from there`);
}

/** A body as it comes, until it is broken off, also when its sender has fallen silent. */
export async function* unless(stop: AbortSignal, body: AsyncIterable<Buffer>): AsyncGenerator<Buffer> {
  const parts = body[Symbol.asyncIterator]();
  const stopped = new Promise<never>((_, fail) => {
    const why = new DeliveryTrouble(
      409,
      'taken-over',
      'the delivery was stopped, or somebody else goes on with this file',
    );
    stop.addEventListener('abort', () => fail(why), { once: true });
  });
  stopped.catch(() => undefined);
  try {
    for (;;) {
      const { done, value } = await Promise.race([parts.next(), stopped]);
      if (done) return;
      yield value;
    }
  } finally {
    background('leaving a body', Promise.resolve(parts.return?.()));
  }
}
