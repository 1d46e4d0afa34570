import { createServer, request as ask, type IncomingMessage, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';

/** A front before a site that gives every new browser context a visit of its own. */
export interface Visits {
  port: number;
  /** How many visits there were since the last time it was asked. */
  taken(): number;
  close(): Promise<void>;
}

const mark = 'visit_of_its_own';

/**
 * Hands requests through to a site. The first of a context, which has no mark yet, waits until its visit is set.
 * @param sitePort where the site is, on this machine
 * @param port where the front is; 0 for any
 */
export async function frontOf(sitePort: number, port: number, visit: () => Promise<void> | void): Promise<Visits> {
  let count = 0;
  const handle = async (incoming: IncomingMessage): Promise<string | undefined> => {
    if (incoming.headers.cookie?.includes(mark)) return undefined;
    if (!/text\/html/.test(incoming.headers.accept ?? '')) return undefined;
    count++;
    await visit();
    return `${mark}=1; Path=/`;
  };
  const server: Server = createServer((incoming, outgoing) => {
    void handle(incoming).then((cookie) => {
      const to = ask(
        { host: '127.0.0.1', port: sitePort, method: incoming.method, path: incoming.url, headers: incoming.headers },
        (answer) => {
          const headers = { ...answer.headers };
          if (cookie) headers['set-cookie'] = [...(headers['set-cookie'] ?? []), cookie];
          outgoing.writeHead(answer.statusCode ?? 502, headers);
          answer.pipe(outgoing);
        },
      );
      to.on('error', () => outgoing.destroy());
      outgoing.on('close', () => to.destroy());
      incoming.pipe(to);
    });
  });
  await new Promise<void>((done) => server.listen(port, '127.0.0.1', done));
  return {
    port: (server.address() as AddressInfo).port,
    taken: () => {
      const taken = count;
      count = 0;
      return taken;
    },
    close: () =>
      new Promise((done) => {
        server.close(() => done());
        server.closeAllConnections();
      }),
  };
}
