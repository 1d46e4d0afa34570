import { randomInt } from 'node:crypto';
import { createServer } from 'node:net';

export const loopback = '127.0.0.1';

/**
 * One of the sixteen million addresses of the loopback, where the system has them all: who does not know it does not
 * find what listens there.
 */
export const secretLoopback = (): string =>
  process.platform === 'linux' ? `127.${randomInt(1, 255)}.${randomInt(0, 256)}.${randomInt(1, 255)}` : loopback;

/** A port of the loopback that nobody has just now. */
export function freePort(host = loopback): Promise<number> {
  return new Promise((done, fail) => {
    const server = createServer();
    server.on('error', fail);
    server.listen(0, host, () => {
      const { port } = server.address() as { port: number };
      server.close(() => done(port));
    });
  });
}
