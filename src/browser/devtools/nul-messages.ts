/** Longer messages are passed on like all others, and not read: pictures and downloads, which say nothing of steps. */
export const longestRead = 24 * 1024 * 1024;

/**
 * Cuts what comes over a pipe into messages: each ends with a NUL.
 * @param told of each message; without its bytes when it is longer than what is read
 */
export class NulMessages {
  private parts: Buffer[] = [];
  private length = 0;

  constructor(private readonly told: (message: Buffer | undefined) => void) {}

  push(chunk: Buffer): void {
    let from = 0;
    for (let end = chunk.indexOf(0); end >= 0; end = chunk.indexOf(0, from)) {
      this.keep(chunk.subarray(from, end));
      from = end + 1;
      const whole = this.length > longestRead ? undefined : Buffer.concat(this.parts);
      this.parts = [];
      this.length = 0;
      this.told(whole);
    }
    this.keep(chunk.subarray(from));
  }

  private keep(part: Buffer): void {
    this.length += part.length;
    if (this.length > longestRead) this.parts = [];
    else if (part.length) this.parts.push(part);
  }
}

/** What ends a message. */
export const endMark = Buffer.from([0]);

/** Begins or ends a session: which, and what the event is. */
const sessionEvent = /^\{"method":"Target\.(attachedToTarget|detachedFromTarget)","params":\{"sessionId":"(\w{1,100})"/;

/** The session that an event begins or ends; nothing for any other message. */
export function sessionIn(message: Buffer): { begun?: string; ended?: string } {
  const [, event, session] = sessionEvent.exec(message.toString('latin1', 0, 200)) ?? [];
  if (session === undefined) return {};
  return event === 'attachedToTarget' ? { begun: session } : { ended: session };
}

/** A message is looked at for its session no further from its end. */
const tailLength = 64;

/** The session a message belongs to, which the browser writes last. */
export const sessionAtEnd = (message: Buffer): string | undefined =>
  /"sessionId":"(\w{1,100})"\}$/.exec(message.toString('latin1', Math.max(0, message.length - tailLength)))?.[1];
