import { isDeepStrictEqual } from 'node:util';
import { observerWorld } from '../observer/source.ts';
import { endMark, sessionAtEnd, sessionIn } from './nul-messages.ts';

type Json = Record<string, unknown>;
interface TargetInfo {
  targetId: string;
  attached: boolean;
}

/** Commands of ours that bring a source with them, and where it stands. */
const sources: Readonly<Record<string, string>> = {
  'Runtime.evaluate': 'expression',
  'Runtime.callFunctionOn': 'functionDeclaration',
  'Page.addScriptToEvaluateOnNewDocument': 'source',
};
/** Answers in which something of ours may stand: targets, and what was covered. */
export const mayShowOurs = /^\{"id":\d{1,15},"result":\{"(?:targetInfos?"|result":\[\{"scriptId")/;
const events =
  /^\{"method":"(Debugger\.script(?:Parsed|FailedToParse)|Runtime\.executionContext(?:Created|Destroyed)|Target\.(?:targetCreated|targetInfoChanged|attachedToTarget|detachedFromTarget))"/;
const mostKept = 20_000;

/** A command of ours as it is sent: its source bears our name. */
export function marked<C extends { method: string; params?: object }>(command: C, name: string): C {
  const key = sources[command.method];
  const source = key === undefined ? undefined : (command.params as Json | undefined)?.[key];
  if (key === undefined || typeof source !== 'string') return command;
  return { ...command, params: { ...command.params, [key]: `${source}\n//# sourceURL=${name}\n` } };
}

/**
 * What a browser tells its client, without what is there only because of us: our scripts, our world, our being attached.
 * All else stays as it was written.
 */
export class Unseen {
  /** Worlds of ours, by session and number. */
  private readonly worlds = new Set<string>();
  /** The client's sessions: by which target. */
  private readonly sessions = new Map<string, string>();
  /** What was told of a target last, by the session that discovers targets and the target. */
  private readonly told = new Map<string, { session: string; info: TargetInfo }>();

  /** @param name by which the browser knows all sources of ours */
  constructor(private readonly name: string) {}

  /**
   * @param message to the client, whole
   * @returns what the client is told, messages with an end mark between them; nothing where there is nothing to tell
   */
  shown(message: Buffer): Buffer | undefined {
    const head = message.toString('latin1', 0, 100);
    const event = events.exec(head)?.[1];
    if (event === undefined && !mayShowOurs.test(head)) return message;
    const session = sessionAtEnd(message) ?? '';
    switch (event) {
      case 'Debugger.scriptParsed':
      case 'Debugger.scriptFailedToParse':
        return message.includes(`"url":"${this.name}"`) ? undefined : message;
      case 'Runtime.executionContextCreated': {
        if (!message.includes(`"name":"${observerWorld}"`)) return message;
        const id = /"context":\{"id":(\d{1,15})/.exec(head)?.[1];
        if (this.worlds.size > mostKept) this.worlds.clear();
        this.worlds.add(`${session} ${id}`);
        return undefined;
      }
      case 'Runtime.executionContextDestroyed': {
        const id = /"executionContextId":(\d{1,15})/.exec(head)?.[1];
        return this.worlds.delete(`${session} ${id}`) ? undefined : message;
      }
      case 'Target.detachedFromTarget': {
        const { ended = '' } = sessionIn(message);
        const target = this.sessions.get(ended);
        this.sessions.delete(ended);
        return Buffer.concat([message, ...this.becomes(target, false).flatMap((one) => [endMark, one])]);
      }
      default:
        return event === undefined && head.includes('"result":[{"scriptId"')
          ? this.covered(message)
          : this.targets(message, event, session);
    }
  }

  private covered(message: Buffer): Buffer {
    if (!message.includes(this.name)) return message;
    const whole = JSON.parse(message.toString()) as { result: { result: { url: string }[] } };
    whole.result.result = whole.result.result.filter(({ url }) => url !== this.name);
    return Buffer.from(JSON.stringify(whole));
  }

  /** A target that only we are attached to is attached to by nobody. */
  private targets(message: Buffer, event: string | undefined, session: string): Buffer | undefined {
    const text = message.toString();
    const { params, result } = JSON.parse(text) as { params?: Json; result?: Json };
    const { targetInfo, targetInfos, sessionId } = (params ?? result ?? {}) as {
      targetInfo?: TargetInfo;
      targetInfos?: TargetInfo[];
      sessionId?: string;
    };
    const infos = targetInfos ?? (targetInfo ? [targetInfo] : []);
    if (event === 'Target.attachedToTarget' && sessionId !== undefined && targetInfo)
      this.sessions.set(sessionId, targetInfo.targetId);
    const theirs = new Set(this.sessions.values());
    let i = 0;
    const shown = text.replaceAll(/(?<!\\)"attached":(?:true|false)/g, (found) => {
      const info = infos[i++];
      if (!info?.attached || theirs.has(info.targetId)) return found;
      info.attached = false;
      return '"attached":false';
    });
    if (targetInfo && (event === 'Target.targetCreated' || event === 'Target.targetInfoChanged')) {
      const key = `${session} ${targetInfo.targetId}`;
      // It changed by our doing alone.
      const isKnown = isDeepStrictEqual(this.told.get(key)?.info, targetInfo);
      if (event === 'Target.targetInfoChanged' && isKnown) return undefined;
      if (this.told.size > mostKept) this.told.clear();
      this.told.set(key, { session, info: targetInfo });
    }
    const own = shown === text ? message : Buffer.from(shown);
    const before = event === 'Target.attachedToTarget' ? this.becomes(targetInfo?.targetId, true) : [];
    return before.length ? Buffer.concat([...before.flatMap((one) => [one, endMark]), own]) : own;
  }

  /** What the browser would have told of a target that was attached to, or no longer, had we not been there before. */
  private becomes(target: string | undefined, attached: boolean): Buffer[] {
    if (target === undefined || (!attached && [...this.sessions.values()].includes(target))) return [];
    return [...this.told.values()].flatMap((known) => {
      if (known.info.targetId !== target || known.info.attached === attached) return [];
      known.info = { ...known.info, attached };
      const message = { method: 'Target.targetInfoChanged', params: { targetInfo: known.info } };
      return [Buffer.from(JSON.stringify({ ...message, ...(known.session ? { sessionId: known.session } : {}) }))];
    });
  }
}
