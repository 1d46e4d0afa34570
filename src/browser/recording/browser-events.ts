import type { ConsoleData, NetworkData, PageEvent } from '../../core/evidence/event.ts';
import { clock } from './clock.ts';
import { Exchanges, type DebuggingParams } from './exchanges.ts';
import type { AttemptRecorder } from './recorder.ts';

/** Turns BiDi events of the browser into evidence. */
export interface BrowserEventTeller {
  /** @param heard when it came, wall-clock ms */
  tell(method: string, params: never, heard: number): void;
  /** Told what was sent along with a request, of which the browser does not tell. */
  sentAlong(request: string, traceparent: string): void;
  /** How many requests of the page have no answer yet. */
  underWay(): number;
  /** Tells of the requests that were never answered, and forgets them. */
  finish(): void;
}

interface LogEntry {
  level: string;
  text: string | null;
  timestamp: number;
  type: string;
  method?: string;
  source?: { context?: string };
  stackTrace?: { callFrames: { url: string; lineNumber: number; columnNumber: number; functionName: string }[] };
}

interface Navigation {
  context: string;
  timestamp: number;
  url: string;
}

/**
 * Where a document comes while scripts of ours are put into it, Chromium runs them twice, and what hands them their channel
 * throws the second time. It has no address, as no script of the page's own that is loaded.
 */
const channelThrew = (entry: LogEntry): boolean =>
  entry.text === 'TypeError: w[id] is not a function' &&
  entry.stackTrace?.callFrames.every(({ url }) => url === '') === true;

const pageKinds: Record<string, PageEvent['kind']> = {
  'browsingContext.navigationStarted': 'navigation-started',
  'browsingContext.navigationCommitted': 'navigation-committed',
  'browsingContext.domContentLoaded': 'dom-ready',
  'browsingContext.load': 'loaded',
  'browsingContext.fragmentNavigated': 'fragment',
};

const levels: Record<string, ConsoleData['level']> = {
  error: 'error',
  warn: 'warning',
  warning: 'warning',
  debug: 'debug',
};

/** What is told of Chromium by its own debugging events. */
const debugging = 'goog:cdp.';

/**
 * @param over told of each exchange that ended
 */
export function browserEvents(
  recorder: () => AttemptRecorder | undefined,
  over?: (id: string, data: NetworkData) => void,
): BrowserEventTeller {
  const exchanges = new Exchanges(recorder, over);

  const logged = (entry: LogEntry): void => {
    const uncaught = entry.type === 'javascript';
    if (uncaught && channelThrew(entry)) return;
    const top = entry.stackTrace?.callFrames[0];
    recorder()?.add({
      lane: 'console',
      kind: uncaught ? 'exception' : 'line',
      at: entry.timestamp,
      clock: 'browser',
      data: {
        level: levels[entry.level] ?? 'info',
        text: entry.text ?? '',
        ...(top ? { source: `${top.url}:${top.lineNumber + 1}` } : {}),
        ...(entry.stackTrace
          ? {
              stack: entry.stackTrace.callFrames
                .map(
                  (f) => `    at ${f.functionName || 'anonymous'} (${f.url}:${f.lineNumber + 1}:${f.columnNumber + 1})`,
                )
                .join('\n'),
            }
          : {}),
        ...(uncaught ? { uncaught } : {}),
        ...(entry.source?.context ? { context: entry.source.context } : {}),
      },
    });
  };

  const window = (
    kind: 'opened' | 'closed',
    p: { context: string; parent: string | null; url: string },
    heard: number,
  ): void => {
    if (p.parent !== null) return;
    recorder()?.add({
      lane: 'window',
      kind,
      at: heard,
      clock: 'recorder',
      data: { context: p.context, address: p.url },
    });
  };

  const dialog = (
    kind: 'dialog-opened' | 'dialog-closed',
    p: { context: string; type?: string; message?: string; accepted?: boolean },
    heard: number,
  ): void => {
    const text = kind === 'dialog-opened' ? p.message : p.accepted ? 'accepted' : 'dismissed';
    recorder()?.add({
      lane: 'window',
      kind,
      at: heard,
      clock: 'recorder',
      data: { context: p.context, ...(p.type ? { dialog: p.type } : {}), ...(text ? { text } : {}) },
    });
  };

  const tell = (method: string, params: never, heard: number): void => {
    const page = pageKinds[method];
    if (page) {
      const { context, timestamp, url } = params as Navigation;
      recorder()?.add({ lane: 'page', kind: page, at: timestamp, clock: 'browser', data: { context, address: url } });
      return;
    }
    if (method.startsWith(debugging))
      return exchanges.debugging(method.slice(debugging.length), (params as { params: DebuggingParams }).params, heard);
    switch (method) {
      case 'network.beforeRequestSent':
        return exchanges.begun(params);
      case 'network.responseStarted':
        return exchanges.answered(params, heard);
      case 'network.responseCompleted':
        return exchanges.completed(params, heard);
      case 'network.fetchError':
        return exchanges.failed(params, heard);
      case 'log.entryAdded':
        return logged(params);
      case 'browsingContext.contextCreated':
        return window('opened', params, heard);
      case 'browsingContext.contextDestroyed':
        return window('closed', params, heard);
      case 'browsingContext.userPromptOpened':
        return dialog('dialog-opened', params, heard);
      case 'browsingContext.userPromptClosed':
        return dialog('dialog-closed', params, heard);
    }
  };
  return {
    tell,
    sentAlong: (request, header) => exchanges.sentAlong(request, header),
    finish: () => exchanges.finish(clock()),
    underWay: () => exchanges.underWay,
  };
}
