import { beforeEach, describe, expect, it } from 'vitest';
import { unanswered, type EvidenceEvent } from '../../core/evidence/event.ts';
import { browserEvents, type BrowserEventTeller } from './browser-events.ts';
import type { AttemptRecorder } from './recorder.ts';

let told: EvidenceEvent[];
let teller: BrowserEventTeller;
const recorder = {
  add: (event: EvidenceEvent) => told.push(event),
  isOwn: (host: string) => host === 'ferry.test',
} as unknown as AttemptRecorder;
const tell = (method: string, params: object): void => teller.tell(method, params as never);

beforeEach(() => {
  told = [];
  teller = browserEvents(() => recorder);
});

const now = (): number => performance.timeOrigin + performance.now();
const asked = (id: string, at: number, url = 'http://ferry.test/api/fare', redirectCount = 0): object => ({
  context: 'c',
  timestamp: at,
  redirectCount,
  initiator: { type: 'script', url: 'http://ferry.test/shop.js', lineNumber: 41 },
  request: {
    request: id,
    method: 'GET',
    url,
    'goog:resourceType': 'Fetch',
    headers: [{ name: 'accept', value: { value: '*/*' } }],
  },
});
const answered = (id: string, at: number, ms: number, status = 200, redirectCount = 0): object => ({
  ...asked(id, at, undefined, redirectCount),
  request: {
    request: id,
    method: 'GET',
    url: 'http://ferry.test/api/fare',
    timings: { timeOrigin: at, responseStart: ms - 1, responseEnd: ms },
  },
  response: {
    status,
    mimeType: 'application/json',
    bytesReceived: 120,
    headers: [{ name: 'x', value: { value: 'y' } }],
  },
});

describe('requests', () => {
  it('one exchange is one event, from the request to the browser’s own end of it', () => {
    const at = now() - 30;
    tell('network.beforeRequestSent', asked('1', at));
    expect(teller.underWay()).toBe(1);
    tell('network.responseCompleted', answered('1', at, 25));
    expect(told).toHaveLength(1);
    expect(told[0]).toMatchObject({
      lane: 'network',
      at,
      until: at + 25,
      data: {
        status: 200,
        own: true,
        type: 'fetch',
        initiator: 'http://ferry.test/shop.js:42',
        firstByteMs: 24,
        requestHeaders: { accept: '*/*' },
      },
    });
    expect(teller.underWay()).toBe(0);
  });

  it('a body that streams on ends when it ends', () => {
    const at = now() - 900;
    tell('network.beforeRequestSent', asked('1', at));
    tell('network.responseCompleted', answered('1', at, 25));
    expect((told[0] as { until: number }).until - at).toBeGreaterThan(800);
  });

  it('redirects are exchanges of their own', () => {
    const at = now() - 20;
    tell('network.beforeRequestSent', asked('1', at));
    tell('network.responseCompleted', answered('1', at, 5, 302));
    tell('network.beforeRequestSent', asked('1', at + 6, 'http://ferry.test/b', 1));
    tell('network.responseCompleted', answered('1', at + 6, 5, 200, 1));
    expect(told.map((event) => (event.lane === 'network' ? event.data.status : 0))).toEqual([302, 200]);
  });

  it('a failure says why, and what was never answered says so', () => {
    tell('network.beforeRequestSent', asked('1', now()));
    tell('network.fetchError', { ...asked('1', now()), errorText: 'net::ERR_CONNECTION_REFUSED' });
    tell('network.beforeRequestSent', asked('2', now()));
    teller.finish();
    expect(told.map((event) => (event.lane === 'network' ? event.data.failed : ''))).toEqual([
      'net::ERR_CONNECTION_REFUSED',
      unanswered,
    ]);
  });

  it('data addresses and answers to nothing are left out', () => {
    tell('network.beforeRequestSent', asked('1', now(), 'data:image/png;base64,x'));
    tell('network.responseCompleted', answered('9', now(), 1));
    expect(told).toEqual([]);
  });
});

describe('the rest', () => {
  it('console lines keep their level, exceptions their stack', () => {
    tell('log.entryAdded', { level: 'warn', text: 'slow', timestamp: 5, type: 'console', source: { context: 'c' } });
    tell('log.entryAdded', {
      level: 'error',
      text: 'Error: x',
      timestamp: 6,
      type: 'javascript',
      stackTrace: { callFrames: [{ url: 'http://ferry.test/a.js', lineNumber: 4, columnNumber: 1, functionName: '' }] },
    });
    expect(told[0]).toMatchObject({ kind: 'line', data: { level: 'warning', text: 'slow' } });
    expect(told[1]).toMatchObject({
      kind: 'exception',
      data: {
        level: 'error',
        uncaught: true,
        source: 'http://ferry.test/a.js:5',
        stack: '    at anonymous (http://ferry.test/a.js:5:2)',
      },
    });
  });

  it('only top-level contexts are windows', () => {
    tell('browsingContext.contextCreated', { context: 'a', parent: null, url: 'about:blank' });
    tell('browsingContext.contextCreated', { context: 'b', parent: 'a', url: 'about:blank' });
    expect(told.map((event) => event.kind)).toEqual(['opened']);
  });

  it('dialogs open with their text and close with what became of them', () => {
    tell('browsingContext.userPromptOpened', { context: 'a', type: 'confirm', message: 'sure?' });
    tell('browsingContext.userPromptClosed', { context: 'a', type: 'confirm', accepted: false });
    expect(told.map((event) => (event.lane === 'window' ? event.data.text : ''))).toEqual(['sure?', 'dismissed']);
  });

  it('navigations carry address and time', () => {
    tell('browsingContext.load', { context: 'a', timestamp: 9, url: 'http://ferry.test/' });
    expect(told[0]).toMatchObject({ lane: 'page', kind: 'loaded', at: 9, data: { address: 'http://ferry.test/' } });
  });
});
