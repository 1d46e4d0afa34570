import type { IncomingMessage, ServerResponse } from 'node:http';
import type { Duplex } from 'node:stream';
import { connect } from 'node:net';
import { readOutcome } from './outcome-body.ts';
import { readSessionRequest, LaunchRefused, type SessionRequest } from './capabilities.ts';
import { engineAsked } from './engine-asked.ts';
import { forward, passedBack, type Answer } from './forward.ts';
import { clock } from './recorder.ts';
import { parseJson, RecordedSession, type NewSession } from './session.ts';
import type { EvidenceSink } from './sink.ts';
import type { DriverPool } from '../driver-pool.ts';
import { howToInstall, type EngineName } from '../engines.ts';

export interface EndpointOptions {
  /** One for each engine of this machine; a session in any other is refused with the command that mends it. */
  pools: ReadonlyMap<EngineName, DriverPool>;
  sink: EvidenceSink;
  anyLaunch: boolean;
  /** A session whose client is silent this long is ended as interrupted. */
  idleMs: number;
}

/** Bodies over this are no WebDriver command. */
const longestBody = 64 * 1024 * 1024;

/**
 * The recording endpoint: a W3C WebDriver remote end in front of a real driver. Commands and answers
 * pass unchanged; what they tell is recorded after the client has its answer.
 */
export class RecordingEndpoint {
  private readonly sessions = new Map<string, RecordedSession>();
  /** Sessions that are over for their clients and whose processes are being ended. */
  private readonly ending = new Set<Promise<void>>();
  private readonly watchman: NodeJS.Timeout;

  constructor(private readonly options: EndpointOptions) {
    this.watchman = setInterval(() => this.endIdle(), Math.min(1000, options.idleMs / 2));
    this.watchman.unref();
  }

  /** Answers a request below the base; `path` begins after it. */
  async handle(path: string, request: IncomingMessage, response: ServerResponse): Promise<void> {
    const at = clock();
    try {
      const body = await bodyOf(request);
      await this.route(path, request, response, body, at);
    } catch (error) {
      if (!response.headersSent) wireError(response, 500, 'unknown error', (error as Error).message);
      else response.destroy();
    }
  }

  private async route(
    path: string,
    request: IncomingMessage,
    response: ServerResponse,
    body: Buffer,
    at: number,
  ): Promise<void> {
    const method = request.method ?? 'GET';
    const plain = path.split('?')[0]!;
    if (method === 'POST' && plain === '/session') return this.newSession(request, response, body);
    const [, id, rest] = /^\/session\/([^/]+)(\/.*)?$/.exec(plain) ?? [];
    const session = id ? this.sessions.get(id) : undefined;
    if (!session) return this.askSpare(path, request, response, body);
    const tail = rest ?? '';
    if (method === 'POST' && tail.startsWith('/iskel/')) return this.extension(session, tail, body, response);
    if (method === 'DELETE' && tail === '') return this.deleteSession(session, path, request, response, body);
    session.begin(method, tail, body);
    await session.looking;
    let answer: Answer | undefined;
    try {
      const answered = forward(session.driver, method, path, request.headers, body);
      // While the driver works, the time is ours: notes of the command before, and the watch on this one's locator.
      session.catchUp();
      session.asks(method, tail, body);
      answer = await answered;
      if (session.promptsAgain && isOpenPrompt(answer))
        answer = await forward(session.driver, method, path, request.headers, body);
      send(response, answer);
      session.looksAfter(method, tail, answer, clock());
    } catch {
      wireError(response, 404, 'invalid session id', 'the driver of this session is no longer running');
    }
    const until = clock();
    session.later(() => {
      session.took(method, tail, body, answer, at, until);
      const closedLast =
        method === 'DELETE' &&
        tail === '/window' &&
        answer?.status === 200 &&
        answer.body.toString() === '{"value":[]}';
      if (closedLast) void this.finish(session);
    });
  }

  private async newSession(request: IncomingMessage, response: ServerResponse, body: Buffer): Promise<void> {
    const asked = parseJson(body);
    const wish = engineAsked(asked?.capabilities, (name) => this.options.pools.has(name));
    const pool = this.options.pools.get(wish);
    if (!pool) {
      const mend = `${wish} and its driver are not installed on this machine; run: ${howToInstall[wish]}`;
      return wireError(response, 500, 'session not created', mend);
    }
    // What cannot be read is sent as it came: the driver's own refusal is the right one.
    let wanted: SessionRequest | undefined;
    try {
      if (asked && typeof asked.capabilities === 'object')
        wanted = readSessionRequest(asked, pool.engine, this.options.anyLaunch);
    } catch (error) {
      if (!(error instanceof LaunchRefused)) throw error;
      return wireError(response, 400, 'invalid argument', error.message);
    }
    const startedAt = clock();
    const driver = await pool.take();
    const answer = await forward(
      driver,
      'POST',
      '/session',
      request.headers,
      wanted ? Buffer.from(JSON.stringify(wanted.body)) : body,
    ).catch(async (error: Error) => {
      await driver.close();
      throw error;
    });
    const session = (parseJson(answer.body)?.value ?? {}) as NewSession;
    if (answer.status !== 200 || !session.sessionId) {
      send(response, answer);
      await driver.close();
      return;
    }
    const recorded = await RecordedSession.start(
      driver,
      session,
      wanted?.attempt ?? {},
      this.options.sink,
      startedAt,
      wanted?.size,
    );
    recorded.promptsAgain = wanted?.prompts.again ?? false;
    this.sessions.set(session.sessionId, recorded);
    if (request.socket.destroyed) return this.finish(recorded, 'the client went away while the session was starting');
    const capabilities: Record<string, unknown> = {
      ...session.capabilities,
      'iskel:attempt': { id: recorded.recorder.id },
    };
    if (wanted?.prompts.told) capabilities.unhandledPromptBehavior = wanted.prompts.told;
    if (wanted?.wantsSocket) capabilities.webSocketUrl = `ws://${request.headers.host}/wd/session/${session.sessionId}`;
    else if (pool.engine.name === 'chromium') delete capabilities.webSocketUrl;
    send(response, {
      ...answer,
      body: Buffer.from(JSON.stringify({ value: { capabilities, sessionId: session.sessionId } })),
    });
  }

  private async deleteSession(
    session: RecordedSession,
    path: string,
    request: IncomingMessage,
    response: ServerResponse,
    body: Buffer,
  ): Promise<void> {
    session.begin();
    await session.looking;
    session.catchUp();
    if (!session.over) await session.lastLook();
    // The recording is closed first: what the browser tells while it goes down is no interruption.
    const ended = session.recorder.end();
    const answer = await forward(session.driver, 'DELETE', path, request.headers, body).catch(() => undefined);
    // From here on the session is unknown, as it is to the driver; its processes go while nobody waits.
    this.sessions.delete(session.id);
    const finished = this.finish(session);
    this.ending.add(finished);
    void finished.finally(() => this.ending.delete(finished));
    if (answer) send(response, answer);
    else wireError(response, 404, 'invalid session id', 'the driver of this session is no longer running');
    await ended;
  }

  private async finish(session: RecordedSession, interrupted?: string): Promise<void> {
    await session.end(interrupted);
    this.sessions.delete(session.id);
  }

  /** What belongs to no session of ours is answered by a driver too, in its own words. */
  private async askSpare(
    path: string,
    request: IncomingMessage,
    response: ServerResponse,
    body: Buffer,
  ): Promise<void> {
    const [pool] = this.options.pools.values();
    if (!pool) return wireError(response, 404, 'invalid session id', 'no session, and no driver on this machine');
    const driver = await pool.ready();
    send(response, await forward(driver, request.method ?? 'GET', path, request.headers, body));
  }

  private extension(session: RecordedSession, tail: string, body: Buffer, response: ServerResponse): void {
    session.catchUp();
    const told = parseJson(body) ?? {};
    if (tail === '/iskel/note') {
      session.note(told);
    } else if (tail === '/iskel/outcome') {
      const outcome = readOutcome(told);
      if (typeof outcome === 'string') return wireError(response, 400, 'invalid argument', outcome);
      session.outcome(outcome);
    } else {
      return wireError(
        response,
        404,
        'unknown command',
        `${tail} is no extension command; there are /iskel/outcome and /iskel/note`,
      );
    }
    send(response, {
      status: 200,
      headers: { 'content-type': 'application/json; charset=utf-8', 'cache-control': 'no-cache' },
      body: Buffer.from('{"value":null}'),
    });
  }

  /** Joins a client's own BiDi connection to the driver's, byte for byte. */
  upgrade(path: string, request: IncomingMessage, client: Duplex, head: Buffer): void {
    const id = /^\/session\/([^/?]+)$/.exec(path)?.[1];
    const session = id ? this.sessions.get(id) : undefined;
    if (!session) {
      client.end('HTTP/1.1 404 Not Found\r\nconnection: close\r\n\r\n');
      return;
    }
    const driver = connect(session.driver.port, '127.0.0.1', () => {
      const headers = Object.entries(request.headers).filter(
        ([name]) => name !== 'host' && name !== 'authorization' && name !== 'origin',
      );
      const lines = headers.flatMap(([name, value]) =>
        (Array.isArray(value) ? value : [value]).map((one) => `${name}: ${one}`),
      );
      driver.write(
        `GET /session/${id} HTTP/1.1\r\nhost: 127.0.0.1:${session.driver.port}\r\n${lines.join('\r\n')}\r\n\r\n`,
      );
      if (head.length) driver.write(head);
      driver.pipe(client);
      client.pipe(driver);
    });
    driver.on('error', () => client.destroy());
    client.on('error', () => driver.destroy());
    client.on('close', () => driver.destroy());
  }

  private endIdle(): void {
    for (const session of this.sessions.values()) {
      if (session.over) {
        // A session the browser or driver dropped stays known until its client has had time to hear of it.
        if (session.silentMs() > Math.min(this.options.idleMs, 5000)) this.sessions.delete(session.id);
      } else if (session.silentMs() > this.options.idleMs) {
        void this.finish(session, `nothing was heard of the test for ${Math.round(this.options.idleMs / 1000)} s`);
      }
    }
  }

  /** How many sessions are open. */
  get open(): number {
    return [...this.sessions.values()].filter((session) => !session.over).length;
  }

  async close(why: string): Promise<void> {
    clearInterval(this.watchman);
    await Promise.all([...this.ending, ...[...this.sessions.values()].map((session) => this.finish(session, why))]);
  }
}

const isOpenPrompt = (answer: Answer): boolean =>
  answer.status === 500 && answer.body.includes('"unexpected alert open"');

function bodyOf(request: IncomingMessage): Promise<Buffer> {
  return new Promise((done, fail) => {
    const chunks: Buffer[] = [];
    let length = 0;
    request.on('data', (chunk: Buffer) => {
      length += chunk.length;
      if (length > longestBody) {
        fail(new Error(`a command body may have at most ${longestBody} bytes`));
        request.destroy();
      } else chunks.push(chunk);
    });
    request.on('end', () => done(Buffer.concat(chunks)));
    request.on('error', fail);
  });
}

function send(response: ServerResponse, answer: Answer): void {
  response.writeHead(answer.status, passedBack(answer.headers, answer.body.length));
  response.end(answer.body);
}

function wireError(response: ServerResponse, status: number, error: string, message: string): void {
  const body = Buffer.from(JSON.stringify({ value: { error, message, stacktrace: '' } }));
  send(response, {
    status,
    headers: { 'content-type': 'application/json; charset=utf-8', 'cache-control': 'no-cache' },
    body,
  });
}
