import { BidiMapper } from 'chromium-bidi';
import { MapperCdpConnection } from 'chromium-bidi/out/Default/gen/src/cdp/CdpConnection.js';
import { guarded } from '../../core/background.ts';
import { abilitiesOf } from '../abilities.ts';
import type { BidiLink, BidiListener } from '../bidi-link.ts';
import type { DebuggingCommand, DebuggingDoor } from '../debugging-door.ts';
import { clock } from '../recording/clock.ts';
import { everyEvent } from '../recording/session-watch.ts';
import type { TargetSeen, WatchedBrowser } from './watched-browser.ts';

/**
 * What would change the browser for the client that drives it: we watch beside it, so these are answered here and
 * never reach the browser.
 */
const notOurs =
  /^(?:Security\.|Emulation\.|Browser\.setDownloadBehavior|Fetch\.|Network\.set|Page\.set(?!Lifecycle)|DeviceAccess\.|Preload\.|Storage\.)/;

/** A Chromium that somebody drives over DevTools, as it is watched. */
export const chromiumThrough = (door: DebuggingDoor): WatchedBrowser => ({
  environment: async () => {
    const version = /\/([\d.]{1,40})/.exec(await door.version())?.[1] ?? '';
    return { browser: 'chromium', version, platform: process.platform };
  },
  abilities: abilitiesOf.chromium,
  link: (onEvent, seen, onClose) => mapperLink(door, onEvent, seen, onClose),
  events: everyEvent,
  door,
});

/** Speaks BiDi with a browser that is driven by somebody else over DevTools: by a line of its own, which the client never sees. */
async function mapperLink(
  door: DebuggingDoor,
  onEvent: BidiListener,
  seen: TargetSeen,
  onClose: () => void,
): Promise<BidiLink> {
  const waiting = new Map<number, { done: (result: never) => void; fail: (error: Error) => void }>();
  let count = 0;
  let told: (json: string) => void = () => undefined;
  const line = await door.browser({
    heard: (message) => {
      const text = message.toString();
      if (text.startsWith('{"method":"Target.attachedToTarget"'))
        guarded('hearing of a target', () => {
          const { params } = JSON.parse(text) as {
            params: { sessionId: string; targetInfo: { targetId: string; browserContextId?: string; type: string } };
          };
          seen(params.sessionId, params.targetInfo);
        });
      told(text);
    },
    closed: () => {
      for (const { fail } of waiting.values()) fail(new Error('the browser is gone'));
      waiting.clear();
      onClose();
    },
  });
  const connection = new MapperCdpConnection({
    setOnMessage: (next: typeof told) => (told = next),
    sendMessage: (json: string) => {
      const command = JSON.parse(json) as DebuggingCommand;
      const { id, method, sessionId } = command;
      if (notOurs.test(method))
        return void setImmediate(() => told(JSON.stringify({ id, result: {}, ...(sessionId ? { sessionId } : {}) })));
      line.send(command);
    },
    close: () => line.close(),
  });
  const browser = await connection.createBrowserSession();
  let toMapper: (message: never) => void = () => undefined;
  const heard = (message: Record<string, unknown>): void => {
    if (typeof message.method === 'string') return onEvent(message.method, message.params as never, clock());
    const one = waiting.get(message.id as number);
    waiting.delete(message.id as number);
    if (message.type === 'error') one?.fail(new Error(`${message.error as string}: ${message.message as string}`));
    else one?.done(message.result as never);
  };
  await BidiMapper.BidiServer.createAndStart(
    {
      setOnMessage: (told) => (toMapper = told as typeof toMapper),
      sendMessage: (message) => guarded('hearing of a browser', () => heard(message as Record<string, unknown>)),
      close: () => line.close(),
    },
    connection,
    browser,
    'no tab of ours',
  );
  const send = <R>(method: string, params: Record<string, unknown>): Promise<R> =>
    new Promise((done, fail) => {
      if (!line.open) return fail(new Error('the browser is gone'));
      const id = ++count;
      waiting.set(id, { done, fail });
      toMapper({ id, method, params } as never);
    });
  // Dialogs and files are the client's to answer.
  await send('session.new', {
    capabilities: { alwaysMatch: { unhandledPromptBehavior: { default: 'ignore', file: 'ignore' } } },
  });
  return { send, catchUp: () => undefined, close: () => line.close() };
}
