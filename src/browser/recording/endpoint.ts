import type { IncomingHttpHeaders, IncomingMessage, ServerResponse } from 'node:http';
import type { Duplex } from 'node:stream';
import type { WebSocket } from 'ws';
import { background, guarded, trouble } from '../../core/background.ts';
import { joinBidi, openDoor, openFirstDoor } from './bidi-bridge.ts';
import { awaitSession, type BegunByBidi } from './bidi-only.ts';
import { BidiSteps } from './bidi-steps.ts';
import { commandBody, parseJson } from './command-body.ts';
import { readOutcome } from './outcome-body.ts';
import { readSessionRequest, type SessionRequest } from './capabilities.ts';
import { ownCommandMs, startLimitMs } from './forward.ts';
import { LaunchRefused } from './launch-options.ts';
import { readsBody, refusesCommand } from './reach.ts';
import { clock } from './clock.ts';
import { routeOf } from './route.ts';
import { RecordedSession } from './session.ts';
import type { EvidenceSink } from './sink.ts';
import { send, wireError, WireRefused, wireValue, type Answer } from './wire-answer.ts';
import type { Place } from '../place.ts';
import type { Places } from '../places.ts';
import type { NewSession, RemoteEnd } from '../remote-end.ts';

type Json = Record<string, unknown>;

/** A session that has begun. */
interface Begun {
  recorded: RecordedSession;
  wanted: SessionRequest;
  answer: Answer;
  capabilities: Json;
}

export interface EndpointOptions {
  /** A session in a place that is not there is refused with what mends it. */
  places: Places;
  sink: EvidenceSink;
  anyLaunch: boolean;
  /** A session whose client is silent this long is ended as interrupted. */
  idleMs: number;
}

/** More sessions at once than a machine can have browsers. */
const mostSessions = 100;

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
    this.watchman = setInterval(
      () => guarded('looking for silent sessions', () => this.endIdle()),
      Math.min(1000, options.idleMs / 2),
    );
    this.watchman.unref();
  }

  /** Answers a request below the base; `path` begins after it. Never rejects. */
  async handle(path: string, request: IncomingMessage, response: ServerResponse): Promise<void> {
    const at = clock();
    try {
      const method = request.method ?? 'GET';
      const route = routeOf(method, path);
      const body = await commandBody(request);
      if (route.to === 'status') return await this.status(request, response, body);
      if (route.to === 'new session') return await this.newSession(request, response, body);
      const session = this.sessions.get(route.id);
      if (!session) throw new WireRefused('invalid session id', 'invalid session id');
      await this.command(session, { method, tail: route.tail, request, response, body, at });
    } catch (error) {
      this.refuse(request, response, error);
    }
  }

  private refuse(request: IncomingMessage, response: ServerResponse, error: unknown): void {
    if (response.headersSent || response.destroyed) return void response.destroy();
    // What is still to come of a body that is refused is not read.
    if (!request.complete) response.setHeader('connection', 'close');
    if (error instanceof WireRefused) return wireError(response, error.status, error.error, error.message);
    trouble('a WebDriver command', error);
    wireError(response, 500, 'unknown error', error instanceof Error ? error.message : 'this command failed');
  }

  private async command(session: RecordedSession, call: Call): Promise<void> {
    const { method, tail, request, response, at } = call;
    if (method === 'POST' && tail.startsWith('/iskel/')) return this.extension(session, tail, call.body, response);
    if (method === 'DELETE' && tail === '') return this.deleteSession(session, request, response, call.body);
    const body = this.options.anyLaunch ? call.body : withinReach(method, tail, call.body);
    const path = `/session/${session.id}${tail}`;
    session.begin(method, tail, body);
    let answer: Answer | undefined;
    try {
      await session.looking;
      const answered = session.driver.send(method, path, request.headers, body);
      // While the driver works, the time is ours: notes of the command before, and the watch on this one's locator.
      session.catchUp();
      session.commands.meanwhile(method, tail, body);
      answer = await answered;
      if (session.promptsAgain && isOpenPrompt(answer))
        answer = await session.driver.send(method, path, request.headers, body);
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
      if (closedLast) background('ending a session', this.finish(session), session.recorder.id);
    });
  }

  private async newSession(request: IncomingMessage, response: ServerResponse, body: Buffer): Promise<void> {
    const begun = await this.create(parseJson(body), request.headers);
    if ('refused' in begun) return send(response, begun.refused);
    const { recorded, wanted, answer, capabilities } = begun;
    if (request.socket.destroyed) return this.finish(recorded, 'the client went away while the session was starting');
    if (wanted.wantsSocket) capabilities.webSocketUrl = `ws://${request.headers.host}/wd/session/${recorded.id}`;
    const value = { capabilities, sessionId: recorded.id };
    send(response, { ...answer, body: Buffer.from(JSON.stringify({ value })) });
  }

  /** @throws WireRefused when there can be no such session here */
  private async create(asked: Json | undefined, headers: IncomingHttpHeaders): Promise<Begun | { refused: Answer }> {
    if (this.open >= mostSessions)
      throw new WireRefused('session not created', `${mostSessions} sessions are open already; end some of them`, 429);
    const capabilities = asked?.capabilities;
    // A driver may read more out of a body than we can, and nothing of it may pass unread.
    if (!asked || capabilities === null || typeof capabilities !== 'object' || Array.isArray(capabilities))
      throw new WireRefused('invalid argument', `invalid argument: 'capabilities' must be a JSON object`);
    const place = this.options.places.asked(capabilities, placeNamed(capabilities));
    if (typeof place === 'string') throw new WireRefused('session not created', place);
    let wanted: SessionRequest;
    try {
      wanted = readSessionRequest(asked, place.launch, this.options.anyLaunch);
    } catch (error) {
      if (!(error instanceof LaunchRefused)) throw error;
      throw new WireRefused('invalid argument', error.message);
    }
    const startedAt = clock();
    const driver = await place.take().catch((error: Error) => {
      throw new WireRefused('session not created', error.message);
    });
    try {
      return await this.begin(driver, wanted, place, startedAt, headers);
    } catch (error) {
      await driver.close();
      const why = error instanceof Error ? error.message : 'the driver failed';
      throw error instanceof WireRefused ? error : new WireRefused('session not created', why);
    }
  }

  private async begin(
    driver: RemoteEnd,
    wanted: SessionRequest,
    place: Place,
    startedAt: number,
    headers: IncomingHttpHeaders,
  ): Promise<Begun | { refused: Answer }> {
    const bytes = Buffer.from(JSON.stringify(wanted.body));
    const answer = await driver.send('POST', '/session', headers, bytes, startLimitMs);
    const session = (parseJson(answer.body)?.value ?? {}) as NewSession;
    if (answer.status !== 200 || !session.sessionId) {
      await driver.close();
      return { refused: answer };
    }
    const { size } = wanted;
    const attempt = place.labels
      ? { ...wanted.attempt, labels: { ...place.labels, ...wanted.attempt.labels } }
      : wanted.attempt;
    const recorded = await RecordedSession.start(driver, place, session, attempt, this.options.sink, startedAt, size);
    recorded.promptsAgain = wanted.prompts.again;
    this.sessions.set(session.sessionId, recorded);
    const capabilities: Json = {
      ...session.capabilities,
      'iskel:attempt': { id: recorded.recorder.id },
    };
    if (wanted.prompts.told) capabilities.unhandledPromptBehavior = wanted.prompts.told;
    if (place.abilities.socket) delete capabilities.webSocketUrl;
    return { recorded, wanted, answer, capabilities };
  }

  private async deleteSession(
    session: RecordedSession,
    request: IncomingMessage,
    response: ServerResponse,
    body: Buffer,
  ): Promise<void> {
    const { answer, ended } = await this.quit(session, request.headers, body);
    if (answer) send(response, answer);
    else wireError(response, 404, 'invalid session id', 'the driver of this session is no longer running');
    await ended;
  }

  /** Ends a session as its client asked. @returns what the driver said, and when the recording is closed */
  private async quit(
    session: RecordedSession,
    headers: IncomingHttpHeaders,
    body: Buffer,
  ): Promise<{ answer: Answer | undefined; ended: Promise<void> }> {
    session.begin();
    await session.looking;
    session.catchUp();
    if (!session.over) await session.lastLook();
    // The recording is closed first: what the browser tells while it goes down is no interruption.
    const ended = session.recorder.end();
    const path = `/session/${session.id}`;
    const answer = await session.driver.send('DELETE', path, headers, body, ownCommandMs).catch(() => undefined);
    // From here on the session is unknown, as it is to the driver; its processes go while nobody waits.
    this.sessions.delete(session.id);
    const finished = this.finish(session).catch((error: unknown) =>
      trouble('ending a session', error, session.recorder.id),
    );
    this.ending.add(finished);
    background(
      'ending a session',
      finished.then(() => this.ending.delete(finished)),
    );
    return { answer, ended };
  }

  private async finish(session: RecordedSession, interrupted?: string): Promise<void> {
    await session.end(interrupted);
    this.sessions.delete(session.id);
  }

  /** Whether sessions can be had, in a driver's own words. */
  private async status(request: IncomingMessage, response: ServerResponse, body: Buffer): Promise<void> {
    const place = this.options.places.local[0] ?? this.options.places.all[0];
    if (!place) return wireValue(response, 200, { ready: false, message: 'there is no driver on this machine' });
    const driver = await place.ready();
    send(response, await driver.send('GET', '/status', request.headers, body, ownCommandMs));
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
    wireValue(response, 200, null);
  }

  /** Joins a client's own BiDi connection to the driver's, or takes one that begins its session itself. */
  upgrade(path: string, request: IncomingMessage, client: Duplex, head: Buffer): void {
    if (/^\/session\/?$/.test(path))
      return openFirstDoor(request, client, head, (socket, begun) =>
        awaitSession(socket, begun, (params) => this.beginByBidi(params, request.headers)),
      );
    const id = /^\/session\/([^/?]{1,200})$/.exec(path)?.[1];
    const session = id ? this.sessions.get(id) : undefined;
    if (!session || session.over) {
      client.end('HTTP/1.1 404 Not Found\r\nconnection: close\r\ncontent-length: 0\r\n\r\n');
      return;
    }
    openDoor(request, client, head, (socket) => this.join(session, socket, request.headers));
  }

  private join(session: RecordedSession, client: WebSocket, headers: IncomingHttpHeaders): void {
    joinBidi(client, {
      connect: () => session.socket(),
      anyLaunch: this.options.anyLaunch,
      heard: () => session.heard(),
      steps: new BidiSteps(session),
      ends: () => this.quit(session, headers, Buffer.alloc(0)).then(({ ended }) => ended),
    });
  }

  /** A session that is spoken to over its socket alone; it is over when that is. */
  private async beginByBidi(params: Json, headers: IncomingHttpHeaders): Promise<BegunByBidi> {
    const asked = (params.capabilities ?? {}) as Json;
    const always = (asked.alwaysMatch ?? {}) as Json;
    const begun = await this.create(
      { capabilities: { ...asked, alwaysMatch: { ...always, webSocketUrl: true } } },
      headers,
    );
    if ('refused' in begun) {
      const told = parseJson(begun.refused.body)?.value as { message?: string } | undefined;
      throw new WireRefused('session not created', told?.message ?? 'the driver refused the session');
    }
    const { recorded, capabilities } = begun;
    return {
      sessionId: recorded.id,
      capabilities,
      join: (client) => {
        client.on('close', () => {
          if (!recorded.over)
            background('ending a session', this.finish(recorded, 'the client went away'), recorded.recorder.id);
        });
        this.join(recorded, client, headers);
      },
    };
  }

  private endIdle(): void {
    for (const session of this.sessions.values()) {
      if (session.over) {
        // A session the browser or driver dropped stays known until its client has had time to hear of it.
        if (session.silentMs() > Math.min(this.options.idleMs, 5000)) this.sessions.delete(session.id);
      } else if (session.silentMs() > this.options.idleMs) {
        const why = `nothing was heard of the test for ${Math.round(this.options.idleMs / 1000)} s`;
        background('ending a silent session', this.finish(session, why), session.recorder.id);
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

/** The place that a session's own capability names. */
function placeNamed(capabilities: object): string | undefined {
  const { alwaysMatch, firstMatch } = capabilities as { alwaysMatch?: unknown; firstMatch?: unknown };
  for (const entry of [alwaysMatch, ...(Array.isArray(firstMatch) ? (firstMatch as unknown[]) : [])]) {
    const own = (entry as { 'iskel:attempt'?: { place?: unknown } | null } | null | undefined)?.['iskel:attempt'];
    if (typeof own?.place === 'string') return own.place;
  }
  return undefined;
}

const isOpenPrompt = (answer: Answer): boolean =>
  answer.status === 500 && answer.body.includes('"unexpected alert open"');

/** One command of a client, as it came. */
interface Call {
  method: string;
  tail: string;
  request: IncomingMessage;
  response: ServerResponse;
  body: Buffer;
  at: number;
}

/**
 * A command's body as the driver is given it. Where the body decides what is reached it is written anew from what was
 * read of it, so that the driver reads the same.
 */
function withinReach(method: string, tail: string, body: Buffer): Buffer {
  const read = readsBody(method, tail) ? parseJson(body) : undefined;
  const why = refusesCommand(method, tail, read);
  if (why !== undefined) throw new WireRefused('invalid argument', `invalid argument: ${why}`);
  return read ? Buffer.from(JSON.stringify(read)) : body;
}
