import { randomInt } from 'node:crypto';
import { createServer } from 'node:net';
import { freePort, loopback } from './free-port.ts';

/**
 * Ports that no page of any browser may speak to, by no protocol: the Fetch standard blocks them (“bad port”), for web
 * sockets, too; of its list these are the ones that Chromium, Firefox and WebKit all keep to (tried: 4190 and 6679 are
 * reached in Chromium). What listens there is safe from every page, whatever it lets in itself. Those below 1024 can be had
 * by few.
 */
const blocked = [
  1719, 1720, 1723, 2049, 3659, 4045, 5060, 5061, 6000, 6566, 6665, 6666, 6667, 6668, 6669, 6697, 10080, 7, 9, 11, 13,
  15, 17, 19, 37, 42, 43, 77, 79, 87, 95, 101, 102, 103, 104, 109, 110, 113, 115, 117, 119, 135, 137, 139, 143, 161,
  179, 389, 427, 465, 512, 513, 514, 515, 526, 530, 531, 532, 540, 548, 554, 556, 563, 587, 601, 636, 989, 990, 993,
  995,
];

/** Given to a program that has not taken it yet, for so long, ms. */
const givenMs = 15_000;
const given = new Map<number, number>();

const isFree = (port: number, host: string): Promise<boolean> =>
  new Promise((done) => {
    const server = createServer();
    // A machine without that kind of address has nobody on it.
    server.once('error', (error: NodeJS.ErrnoException) => done(error.code === 'EADDRNOTAVAIL' && host !== loopback));
    server.listen({ port, host, exclusive: true }, () => server.close(() => done(true)));
  });

/** A free port of the loopback that pages cannot reach; any free one where all of those are taken. */
export async function unreachablePort(): Promise<number> {
  const isGiven = (port: number): boolean => Date.now() - (given.get(port) ?? 0) <= givenMs;
  const left = blocked.filter((port) => !isGiven(port));
  while (left.length) {
    // Those that everybody may have come first, in any order.
    const most = left[0]! > 1023 ? left.filter((port) => port > 1023).length : left.length;
    const [port] = left.splice(randomInt(0, most), 1) as [number];
    // Others look for one at the same time, and took some meanwhile.
    if (isGiven(port)) continue;
    given.set(port, Date.now());
    if ((await isFree(port, loopback)) && (await isFree(port, '::1'))) return port;
    given.delete(port);
  }
  return freePort();
}
