import type { ConsoleData, NetworkData, PageEvent } from '../../core/evidence/event.ts';
import { unanswered } from '../../core/evidence/event.ts';
import type { AttemptRecorder } from './recorder.ts';

/** Turns BiDi events of the browser into evidence. */
export interface BrowserEventTeller {
  tell(method: string, params: never): void;
  /** How many requests of the page are under way. */
  underWay(): number;
  /** Tells of the requests that were never answered, and forgets them. */
  finish(): void;
}

interface NetworkParams {
  context: string | null;
  timestamp: number;
  redirectCount: number;
  initiator?: { type?: string; url?: string; lineNumber?: number };
  request: {
    request: string;
    method: string;
    url: string;
    destination?: string;
    headers?: { name: string; value: { value: string } }[];
    timings?: { timeOrigin?: number; responseStart?: number; responseEnd?: number };
    'goog:resourceType'?: string;
  };
  response?: {
    status: number;
    mimeType?: string;
    bytesReceived?: number;
    headers?: { name: string; value: { value: string } }[];
  };
  errorText?: string;
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

const headersOf = (
  list: { name: string; value: { value: string } }[] | undefined,
): Record<string, string> | undefined => list && Object.fromEntries(list.map(({ name, value }) => [name, value.value]));

export function browserEvents(recorder: () => AttemptRecorder | undefined): BrowserEventTeller {
  const open = new Map<string, { at: number; data: NetworkData }>();

  const begun = (p: NetworkParams): void => {
    const { request } = p;
    if (request.url.startsWith('data:')) return;
    const host = hostOf(request.url);
    const data: NetworkData = {
      request: request.request,
      method: request.method,
      url: request.url,
      host,
      own: recorder()?.isOwn(host) ?? false,
      ...(p.context ? { context: p.context } : {}),
      ...(request.destination || request['goog:resourceType'] ? { type: kindOf(request) } : {}),
      ...(p.initiator?.url ? { initiator: `${p.initiator.url}:${(p.initiator.lineNumber ?? 0) + 1}` } : {}),
      requestHeaders: headersOf(request.headers),
    };
    open.set(`${request.request}/${p.redirectCount}`, { at: p.timestamp, data });
  };

  const ended = (p: NetworkParams): void => {
    const key = `${p.request.request}/${p.redirectCount}`;
    const exchange = open.get(key);
    if (!exchange) return;
    open.delete(key);
    const { data } = exchange;
    if (p.response) {
      data.status = p.response.status;
      data.mime = p.response.mimeType;
      data.size = p.response.bytesReceived;
      data.responseHeaders = headersOf(p.response.headers);
    }
    if (p.errorText) data.failed = p.errorText;
    const first = p.request.timings?.responseStart;
    if (first) data.firstByteMs = Math.round(first * 10) / 10;
    recorder()?.add({
      lane: 'network',
      kind: 'exchange',
      at: exchange.at,
      until: endOfExchange(p, exchange.at),
      clock: 'browser',
      data,
    });
  };

  const logged = (entry: LogEntry): void => {
    const uncaught = entry.type === 'javascript';
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

  const window = (kind: 'opened' | 'closed', p: { context: string; parent: string | null; url: string }): void => {
    if (p.parent !== null) return;
    recorder()?.add({
      lane: 'window',
      kind,
      at: now(),
      clock: 'recorder',
      data: { context: p.context, address: p.url },
    });
  };

  const dialog = (
    kind: 'dialog-opened' | 'dialog-closed',
    p: { context: string; type?: string; message?: string; accepted?: boolean },
  ): void => {
    const text = kind === 'dialog-opened' ? p.message : p.accepted ? 'accepted' : 'dismissed';
    recorder()?.add({
      lane: 'window',
      kind,
      at: now(),
      clock: 'recorder',
      data: { context: p.context, ...(p.type ? { dialog: p.type } : {}), ...(text ? { text } : {}) },
    });
  };

  const now = (): number => performance.timeOrigin + performance.now();

  const tell = (method: string, params: never): void => {
    const page = pageKinds[method];
    if (page) {
      const { context, timestamp, url } = params as Navigation;
      recorder()?.add({ lane: 'page', kind: page, at: timestamp, clock: 'browser', data: { context, address: url } });
      return;
    }
    switch (method) {
      case 'network.beforeRequestSent':
        return begun(params);
      case 'network.responseCompleted':
      case 'network.fetchError':
        return ended(params);
      case 'log.entryAdded':
        return logged(params);
      case 'browsingContext.contextCreated':
        return window('opened', params);
      case 'browsingContext.contextDestroyed':
        return window('closed', params);
      case 'browsingContext.userPromptOpened':
        return dialog('dialog-opened', params);
      case 'browsingContext.userPromptClosed':
        return dialog('dialog-closed', params);
    }
  };
  const finish = (): void => {
    for (const { at, data } of open.values()) {
      const failed = unanswered;
      recorder()?.add({
        lane: 'network',
        kind: 'exchange',
        at,
        until: Math.max(at, now()),
        clock: 'browser',
        data: { ...data, failed },
      });
    }
    open.clear();
  };
  return { tell, finish, underWay: () => open.size };
}

/** A body that comes in one go ends with its headers; later than this after them it was streamed. */
const streamedAfterMs = 150;

/**
 * When an exchange ended. All network events of one exchange carry the time of the request, so the
 * end is taken from the browser's own timings; for a streamed body and for failures it is now.
 */
function endOfExchange(p: NetworkParams, at: number): number {
  const now = performance.timeOrigin + performance.now();
  const { timeOrigin, responseEnd } = p.request.timings ?? {};
  const told = timeOrigin && responseEnd ? timeOrigin + responseEnd : now;
  return Math.max(at, now - told > streamedAfterMs ? now : told);
}

function kindOf(request: NetworkParams['request']): string {
  if (request.destination === 'document') return 'document';
  return (request['goog:resourceType'] ?? request.destination ?? '').toLowerCase();
}

function hostOf(address: string): string {
  try {
    return new URL(address).host;
  } catch {
    return '';
  }
}
