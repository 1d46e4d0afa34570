import { unanswered, type NetworkData, type NetworkEvent } from '../../core/evidence/event.ts';
import { ProcessClock } from './process-clock.ts';
import type { AttemptRecorder } from './recorder.ts';

interface Header {
  name: string;
  value: { value: string };
}

/** What BiDi tells of an exchange, with each of its events. */
export interface NetworkParams {
  context: string | null;
  timestamp: number;
  redirectCount: number;
  initiator?: {
    type?: string;
    url?: string;
    lineNumber?: number;
    stackTrace?: { callFrames: { url: string; lineNumber: number }[] };
  };
  request: {
    request: string;
    method: string;
    url: string;
    destination?: string;
    initiatorType?: string | null;
    headers?: Header[];
    timings?: { timeOrigin?: number; requestTime?: number; responseStart?: number; responseEnd?: number };
    'goog:resourceType'?: string;
  };
  response?: {
    status: number;
    mimeType?: string;
    bytesReceived?: number;
    fromCache?: boolean;
    headers?: Header[];
  };
  errorText?: string;
}

/** How a body ended: `whole`, let go of by the page, or broken off for a reason. */
type BodyEnd = { at: number; size?: number } & ({ how: 'whole' | 'let go' } | { how: 'broken'; why: string });

interface Exchange {
  id: string;
  at: number;
  data: NetworkData;
  /** When the head of the answer was there. */
  headAt?: number;
}

/** What is asked for, and by what kind of thing, in the words of the evidence. */
const kindOf = ({ destination, initiatorType, ...request }: NetworkParams['request']): string => {
  if (destination === 'document' || destination === 'iframe') return 'document';
  const kind = (request['goog:resourceType'] || destination || initiatorType || '').toLowerCase();
  return kind === 'xmlhttprequest' ? 'xhr' : kind;
};

const headersOf = (list: Header[] | undefined): Record<string, string> | undefined =>
  list && Object.fromEntries(list.map(({ name, value }) => [name, value.value]));

const seesCookies = (recorder: AttemptRecorder, list: Header[] = []): void => {
  for (const { name, value } of list) if (/^(?:set-)?cookie$/i.test(name)) recorder.sawCookies(value.value);
};

function hostOf(address: string): string {
  try {
    return new URL(address).host;
  } catch {
    return '';
  }
}

/** Script and line that asked, where the browser tells. */
function initiatorOf({ initiator }: NetworkParams): string | undefined {
  const frame = initiator?.stackTrace?.callFrames.find(({ url }) => url !== '');
  if (frame) return `${frame.url}:${frame.lineNumber + 1}`;
  return initiator?.url ? `${initiator.url}:${(initiator.lineNumber ?? 0) + 1}` : undefined;
}

/** Answers that have no body by the protocol: their head is all of them. */
const bodyless = ({ method, status }: NetworkData): boolean =>
  method === 'HEAD' || status === 204 || status === 205 || status === 304;

/** Heads and ends that were told before their request was; more than these are of requests nobody tells. */
const mostEarly = 500;

/**
 * The exchanges of a page. An answer has come when its head has come; that its body came whole, that the page let go of
 * it or that it broke off is a further fact, told by the browser's own debugging events where it has them.
 */
export class Exchanges {
  private readonly open = new Map<string, Exchange>();
  /** The last exchange of each request: a redirect makes one more under the same name. */
  private readonly latest = new Map<string, string>();
  /** Heads that were told before their request: Chromium's driver works both out at once, and either may be first. */
  private readonly earlyHeads = new Map<string, { told: NetworkParams; heard: number }>();
  /** Ends that came before the head they belong to. */
  private readonly early = new Map<string, BodyEnd>();
  private readonly process = new ProcessClock();

  constructor(
    private readonly recorder: () => AttemptRecorder | undefined,
    /** Told once an exchange is over with a body that came whole. */
    private readonly whole: (id: string, data: NetworkData) => void = () => {},
  ) {}

  get underWay(): number {
    let n = 0;
    for (const { headAt } of this.open.values()) if (headAt === undefined) n++;
    return n;
  }

  begun(p: NetworkParams): void {
    const { request } = p;
    const recorder = this.recorder();
    if (!recorder || request.url.startsWith('data:')) return;
    const before = this.latest.get(request.request);
    // The hop before this one ended with its head.
    if (before !== undefined && p.redirectCount > 0) this.settle(before);
    const key = `${request.request}/${p.redirectCount}`;
    const host = hostOf(request.url);
    const type = kindOf(request);
    const initiator = initiatorOf(p);
    seesCookies(recorder, request.headers);
    this.latest.set(request.request, key);
    this.open.set(key, {
      id: recorder.newId(),
      at: p.timestamp,
      data: {
        request: request.request,
        method: request.method,
        url: request.url,
        host,
        own: recorder.isOwn(host),
        ...(p.context ? { context: p.context } : {}),
        ...(type ? { type } : {}),
        ...(initiator ? { initiator } : {}),
        requestHeaders: headersOf(request.headers),
      },
    });
    const head = this.earlyHeads.get(key);
    this.earlyHeads.delete(key);
    if (head) return this.answered(head.told, head.heard);
    const end = this.early.get(request.request);
    if (end?.how === 'broken') this.bodyEnded(request.request, end);
  }

  /** The head of an answer is there. */
  answered(p: NetworkParams, heard: number): void {
    const key = `${p.request.request}/${p.redirectCount}`;
    const exchange = this.open.get(key);
    if (!p.response) return;
    if (!exchange) return keepEarly(this.earlyHeads, key, { told: p, heard });
    const { data } = exchange;
    const { status, mimeType, bytesReceived, fromCache, headers } = p.response;
    exchange.headAt ??= headTime(p, exchange.at, heard);
    data.status = status;
    if (mimeType) data.mime = mimeType;
    if (bytesReceived !== undefined) data.size = bytesReceived;
    if (fromCache) data.fromCache = true;
    data.responseHeaders = headersOf(headers);
    const recorder = this.recorder();
    if (recorder) seesCookies(recorder, headers);
    data.firstByteMs = Math.round((exchange.headAt - exchange.at) * 10) / 10;
    const end = this.early.get(p.request.request);
    if (!end) return;
    this.early.delete(p.request.request);
    this.bodyEnded(p.request.request, end);
  }

  /** The standard's own end of an answer, for browsers that tell nothing finer. */
  completed(p: NetworkParams, heard: number): void {
    this.answered(p, heard);
    const { responseEnd } = p.request.timings ?? {};
    this.ends(p.request.request, { how: 'whole', at: stamped(p) ? responseEnd || p.timestamp : heard });
  }

  failed(p: NetworkParams, heard: number): void {
    const exchange = this.open.get(`${p.request.request}/${p.redirectCount}`);
    // Chromium's driver tells a second time, without an address, of what it has told the end of.
    if (!exchange) return;
    const why = p.errorText ?? 'failed';
    const at = stamped(p) ? p.timestamp : heard;
    this.bodyEnded(p.request.request, /abort/i.test(why) ? { how: 'let go', at } : { how: 'broken', at, why });
  }

  /** Chromium's own events, which know when a body ended to the millisecond. */
  debugging(method: string, p: DebuggingParams, heard: number): void {
    const at = this.process.wall(p.timestamp, heard);
    switch (method) {
      case 'Network.loadingFinished':
        return this.ends(p.requestId, { how: 'whole', at, size: p.encodedDataLength });
      case 'Network.loadingFailed':
        if (p.canceled) return this.ends(p.requestId, { how: 'let go', at });
        return this.ends(p.requestId, { how: 'broken', at, why: p.errorText ?? 'failed' });
      case 'Network.webSocketCreated':
        return this.socketCreated(p, heard);
      case 'Network.webSocketWillSendHandshakeRequest':
        return this.socketAsked(p);
      case 'Network.webSocketHandshakeResponseReceived':
        return this.socketAnswered(p, at);
      case 'Network.webSocketClosed':
        return this.bodyEnded(p.requestId, { how: 'whole', at });
    }
  }

  private ends(request: string, end: BodyEnd): void {
    const key = this.latest.get(request);
    const exchange = key === undefined ? undefined : this.open.get(key);
    if (exchange && (exchange.headAt !== undefined || end.how === 'broken')) return this.bodyEnded(request, end);
    // The head of an answer is told a moment after the end of a short body.
    keepEarly(this.early, request, end);
  }

  private bodyEnded(request: string, end: BodyEnd): void {
    const key = this.latest.get(request);
    const exchange = key === undefined ? undefined : this.open.get(key);
    if (!exchange || key === undefined) return;
    const { data, headAt } = exchange;
    if (end.size !== undefined) data.size = end.size;
    if (headAt === undefined) {
      const early = this.early.get(request);
      data.failed = end.how === 'broken' ? end.why : (data.failed ?? letGo);
      this.early.delete(request);
      return this.settle(key, early?.at ?? end.at);
    }
    if (end.how === 'broken') data.failed = end.why;
    else if (end.how === 'let go' && !bodyless(data)) data.bodyEnd = 'let go';
    this.settle(key, bodyless(data) ? headAt : end.at);
  }

  /** An exchange is over: at `until`, or when its head came. */
  private settle(key: string, until?: number): void {
    const exchange = this.open.get(key);
    if (!exchange) return;
    this.open.delete(key);
    const { data, at, headAt, id } = exchange;
    const traceparent = this.along.get(data.request);
    if (traceparent) data.requestHeaders = { ...data.requestHeaders, traceparent };
    if (this.latest.get(data.request) === key) this.latest.delete(data.request);
    const event: Omit<NetworkEvent, 'id'> = {
      lane: 'network',
      kind: 'exchange',
      at,
      until: Math.max(at, headAt ?? at, until ?? headAt ?? at),
      clock: 'browser',
      data,
    };
    this.recorder()?.add(event, id);
    if (data.status !== undefined && data.bodyEnd === undefined && data.failed === undefined) this.whole(id, data);
  }

  /** What we had the browser send along with a request, which it does not tell of. */
  sentAlong(request: string, traceparent: string): void {
    keepEarly(this.along, request, traceparent);
  }
  private readonly along = new Map<string, string>();

  private socketCreated({ requestId, url = '', initiator }: DebuggingParams, at: number): void {
    const recorder = this.recorder();
    if (!recorder) return;
    const host = hostOf(url);
    const frame = initiator?.stack?.callFrames?.find((one) => one.url !== '');
    this.latest.set(requestId, `${requestId}/0`);
    this.open.set(`${requestId}/0`, {
      id: recorder.newId(),
      at,
      data: {
        request: requestId,
        method: 'GET',
        url,
        host,
        own: recorder.isOwn(host),
        type: 'websocket',
        ...(frame ? { initiator: `${frame.url}:${frame.lineNumber + 1}` } : {}),
      },
    });
  }

  private socketAsked({ requestId, timestamp, wallTime, request }: DebuggingParams): void {
    const exchange = this.open.get(`${requestId}/0`);
    if (!exchange) return;
    if (wallTime) {
      this.process.isAt(timestamp, wallTime * 1000);
      exchange.at = Math.min(exchange.at, wallTime * 1000);
    }
    exchange.data.requestHeaders = request?.headers;
  }

  private socketAnswered({ requestId, response }: DebuggingParams, at: number): void {
    const exchange = this.open.get(`${requestId}/0`);
    if (!exchange) return;
    exchange.headAt = at;
    exchange.data.status = response?.status ?? 101;
    exchange.data.responseHeaders = response?.headers;
    exchange.data.firstByteMs = Math.max(0, Math.round((at - exchange.at) * 10) / 10);
  }

  /** What is still open when the recording ends: without a head it was never answered, with one its body's end was not seen. */
  finish(now: number): void {
    for (const [key, { headAt, data }] of [...this.open]) {
      if (headAt === undefined) data.failed = unanswered;
      else data.bodyEnd = 'not seen';
      this.settle(key, headAt ?? now);
    }
    this.latest.clear();
    this.early.clear();
    this.earlyHeads.clear();
  }
}

function keepEarly<T>(kept: Map<string, T>, key: string, told: T): void {
  kept.set(key, told);
  if (kept.size > mostEarly) kept.delete(kept.keys().next().value!);
}

/** What stands for the reason where a page gave up a request before its answer. */
export const letGo = 'aborted by the page';

/** When the head came: by the browser's own timings, else by its event, else now. */
function headTime(p: NetworkParams, at: number, heard: number): number {
  const { timeOrigin, responseStart } = p.request.timings ?? {};
  if (timeOrigin !== undefined && responseStart) return Math.max(at, timeOrigin + responseStart);
  return stamped(p) ? p.timestamp : heard;
}

/**
 * Whether each event carries its own time. Browsers that time things from the epoch (their origin is 0) do; the others
 * give all events of an exchange the time of its request, and what they tell of a request they have forgotten has none.
 */
const stamped = ({ request: { timings } }: NetworkParams): boolean =>
  timings?.timeOrigin === 0 && (timings.requestTime ?? 0) > 0;

/** The parts of Chromium's debugging events that are used. */
export interface DebuggingParams {
  requestId: string;
  /** Seconds of a clock of the browser's own. */
  timestamp: number;
  wallTime?: number;
  encodedDataLength?: number;
  errorText?: string;
  canceled?: boolean;
  url?: string;
  initiator?: { stack?: { callFrames?: { url: string; lineNumber: number }[] } };
  request?: { headers?: Record<string, string> };
  response?: { status?: number; headers?: Record<string, string> };
}
