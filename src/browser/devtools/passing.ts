import { createServer, connect, Socket, type Server } from 'node:net';
import { Transform, type Readable, type Writable } from 'node:stream';

/** Hears what is passed on, beside those it is for. It must not change the bytes. */
export type Tap = (from: 'client' | 'browser', connection: number, chunk: Buffer) => void;

/** The client's own ends of the pipe: it writes to what is 3 here, and reads what is written to 4. */
export const clientPipe = (): { commands: Readable; answers: Writable } => ({
  commands: new Socket({ fd: 3, readable: true, writable: false }),
  answers: new Socket({ fd: 4, readable: false, writable: true }),
});

/** Hands every connection to a port of ours through to the browser's, byte by byte. */
export function passPort(host: string, port: number, browserPort: number, tap: Tap): Promise<Server> {
  let count = 0;
  const server = createServer({ noDelay: true, allowHalfOpen: true }, (client) => {
    const connection = ++count;
    const browser = connect({ port: browserPort, host: '127.0.0.1', noDelay: true, allowHalfOpen: true });
    join(client, browser, (chunk) => tap('client', connection, chunk));
    join(browser, client, (chunk) => tap('browser', connection, chunk));
    client.once('close', () => browser.destroy());
    browser.once('close', () => client.destroySoon());
  });
  return new Promise((done, fail) => {
    server.once('error', fail);
    server.listen(port, host, () => done(server));
  });
}

function join(from: Readable, to: Writable, heard: (chunk: Buffer) => void): void {
  from.on('data', heard);
  from.pipe(to);
  // One that breaks off is the end of what it carries; the other side hears of it by its end.
  from.on('error', () => to.end());
  to.on('error', () => from.destroy());
}

/** How a browser says where it listens. */
const announces = /(?:DevTools|WebDriver BiDi) listening on /;

/**
 * What a browser says on its standard error, with the line that tells its port as the client is to read it.
 * @param instead of that line
 */
export function announced(instead: (line: string) => Promise<string>): Transform {
  let rest = '';
  let told = false;
  return new Transform({
    transform(chunk: Buffer, _encoding, done) {
      if (told) return done(null, chunk);
      rest += chunk.toString('latin1');
      const at = rest.search(announces);
      const end = at < 0 ? -1 : rest.indexOf('\n', at);
      if (end < 0) {
        // All whole lines that are not that one go on at once.
        const whole = at < 0 ? rest.lastIndexOf('\n') + 1 : at;
        const out = rest.slice(0, whole);
        rest = rest.slice(whole);
        return done(null, Buffer.from(out, 'latin1'));
      }
      told = true;
      const [before, line, after] = [rest.slice(0, at), rest.slice(at, end), rest.slice(end + 1)];
      rest = '';
      instead(line).then(
        (other) => done(null, Buffer.from(`${before}${other}\n${after}`, 'latin1')),
        () => done(null, Buffer.from(`${before}${line}\n${after}`, 'latin1')),
      );
    },
    flush(done) {
      done(null, Buffer.from(rest, 'latin1'));
    },
  });
}
