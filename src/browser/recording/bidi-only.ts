import type { RawData, WebSocket } from 'ws';
import { background } from '../../core/background.ts';
import { parseJson } from './command-body.ts';
import { WireRefused } from './wire-answer.ts';

type Json = Record<string, unknown>;

/** A connection that begins no session is closed after so long. */
const longestIdleMs = 120_000;

/** What a session that is begun over its own socket gives. */
export interface BegunByBidi {
  sessionId: string;
  capabilities: Json;
  /** Joins the socket to the session from here on. */
  join(client: WebSocket): void;
}

/**
 * A connection without a session, as the BiDi specification has it: it may ask how things stand and begin a session, and
 * nothing else; from then on it is that session's own.
 * @param begun called once it has one
 */
export function awaitSession(
  client: WebSocket,
  begun: () => void,
  begin: (params: Json) => Promise<BegunByBidi>,
): void {
  const answer = (id: number, result: Json): void => client.send(JSON.stringify({ type: 'success', id, result }));
  const refuse = (id: number | null, error: string, message: string): void =>
    client.send(JSON.stringify({ type: 'error', id, error, message, stacktrace: '' }));
  const idle = setTimeout(() => client.close(), longestIdleMs);
  client.on('close', () => clearTimeout(idle));
  const said = (data: RawData, binary: boolean): void => {
    if (binary) return refuse(null, 'invalid argument', 'a message is a text, not bytes');
    const asked = parseJson(Buffer.isBuffer(data) ? data : Buffer.from(data as ArrayBuffer));
    const { id, method } = asked ?? {};
    if (typeof id !== 'number' || typeof method !== 'string')
      return refuse(typeof id === 'number' ? id : null, 'invalid argument', 'a command has an id and a method');
    if (method === 'session.status') return answer(id, { ready: true, message: 'a session can be begun here' });
    if (method !== 'session.new')
      return refuse(id, 'invalid session id', 'there is no session on this connection yet; begin one with session.new');
    // What comes meanwhile is for the session.
    client.pause();
    const beginning = begin((asked?.params ?? {}) as Json).then(
      ({ sessionId, capabilities, join }) => {
        clearTimeout(idle);
        begun();
        client.off('message', said);
        answer(id, { sessionId, capabilities });
        join(client);
      },
      (error: Error) => {
        refuse(id, error instanceof WireRefused ? error.error : 'session not created', error.message);
        client.resume();
      },
    );
    background('beginning a session over its socket', beginning);
  };
  client.on('message', said);
  client.on('error', () => client.terminate());
}
