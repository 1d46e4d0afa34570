import { beforeEach, describe, expect, it } from 'vitest';
import { arrivedAt, unanswered, type NetworkEvent } from '../../core/evidence/event.ts';
import { Exchanges, letGo, type DebuggingParams, type NetworkParams } from './exchanges.ts';
import type { AttemptRecorder } from './recorder.ts';

let told: NetworkEvent[];
let whole: string[];
let exchanges: Exchanges;
let count: number;
const recorder = {
  newId: () => `e${++count}`,
  add: (event: Omit<NetworkEvent, 'id'>, id: string) => told.push({ ...event, id }),
  isOwn: (host: string) => host === 'ferry.test',
} as unknown as AttemptRecorder;

beforeEach(() => {
  told = [];
  whole = [];
  count = 0;
  exchanges = new Exchanges(
    () => recorder,
    (id) => whole.push(id),
  );
});

const at = 1_000_000;
/** As Chromium tells: all events carry the request's time, timings count from it. */
const asked = (id: string, more: Partial<NetworkParams> & { method?: string; url?: string } = {}): NetworkParams => ({
  context: 'c',
  timestamp: at,
  redirectCount: 0,
  ...more,
  request: {
    request: id,
    method: more.method ?? 'GET',
    url: more.url ?? 'http://ferry.test/api/fare',
    'goog:resourceType': 'Fetch',
    headers: [{ name: 'accept', value: { value: '*/*' } }],
  },
});
const head = (
  id: string,
  status: number,
  ms: number,
  more: Partial<NetworkParams> & { method?: string } = {},
): NetworkParams => {
  const params = asked(id, more);
  return {
    ...params,
    request: { ...params.request, timings: { timeOrigin: at, responseStart: ms, responseEnd: ms } },
    response: { status, mimeType: 'application/json', headers: [{ name: 'x', value: { value: 'y' } }] },
  };
};
/** The browser's own clock began when the wall's showed `at - 5000`. */
const debugging = (method: string, id: string, ms: number, more: Partial<DebuggingParams> = {}): void =>
  exchanges.debugging(`Network.${method}`, { requestId: id, timestamp: (5000 + ms) / 1000, ...more }, at + ms);
/** As Firefox tells: each event carries its own time, timings are of the epoch. */
const stamped = (params: NetworkParams, ms: number, timings: object = {}): NetworkParams => ({
  ...params,
  timestamp: at + ms,
  request: { ...params.request, timings: { timeOrigin: 0, requestTime: at, ...timings } },
});

describe('an answer has come when its head has come', () => {
  it('and its body’s end is when the browser’s own clock says', () => {
    exchanges.begun(
      asked('1', { initiator: { stackTrace: { callFrames: [{ url: 'http://ferry.test/shop.js', lineNumber: 41 }] } } }),
    );
    expect(exchanges.underWay).toBe(1);
    exchanges.answered(head('1', 200, 24), at + 60);
    expect(exchanges.underWay).toBe(0);
    debugging('loadingFinished', '1', 300, { encodedDataLength: 120 });
    expect(told).toHaveLength(1);
    expect(told[0]).toMatchObject({
      at,
      until: at + 300,
      data: {
        status: 200,
        own: true,
        type: 'fetch',
        size: 120,
        firstByteMs: 24,
        initiator: 'http://ferry.test/shop.js:42',
        requestHeaders: { accept: '*/*' },
        responseHeaders: { x: 'y' },
      },
    });
    expect(whole).toEqual(['e1']);
  });

  it('also where nobody reads its body: it has a status, and is under way no more', () => {
    exchanges.begun(asked('1'));
    exchanges.answered(head('1', 503, 90), at + 100);
    exchanges.finish(at + 4000);
    expect(told[0]).toMatchObject({ until: at + 90, data: { status: 503, bodyEnd: 'not seen' } });
    expect(told[0]!.data.failed).toBeUndefined();
    expect(arrivedAt(told[0]!)).toBe(at + 90);
    expect(whole).toEqual([]);
  });

  it('without a head it was never answered', () => {
    exchanges.begun(asked('1'));
    exchanges.finish(at + 4000);
    expect(told[0]).toMatchObject({ until: at + 4000, data: { failed: unanswered } });
  });

  it('the end of a short body is often told before its head', () => {
    exchanges.begun(asked('1'));
    debugging('loadingFinished', '1', 30);
    expect(told).toEqual([]);
    exchanges.answered(head('1', 200, 28), at + 45);
    expect(told[0]).toMatchObject({ until: at + 30, data: { status: 200, firstByteMs: 28 } });
  });

  it.each([
    ['HEAD', 200],
    ['POST', 204],
    ['GET', 304],
  ])('%s answered %i has no body, whatever is said of letting go of it', (method, status) => {
    exchanges.begun(asked('1', { method }));
    debugging('loadingFailed', '1', 72, { canceled: true, errorText: 'net::ERR_ABORTED' });
    exchanges.answered(head('1', status, 70, { method }), at + 85);
    // The driver tells the end a second time, of a request without a name.
    exchanges.failed({ ...asked('1'), errorText: 'net::ERR_ABORTED' }, at + 86);
    expect(told).toHaveLength(1);
    expect(told[0]).toMatchObject({ until: at + 70, data: { status } });
    expect(told[0]!.data.failed).toBeUndefined();
    expect(told[0]!.data.bodyEnd).toBeUndefined();
  });

  it('in whatever order its request, its head and its end are told', () => {
    const tell = [
      () => exchanges.begun(asked('1')),
      () => exchanges.answered(head('1', 200, 24), at + 60),
      () => debugging('loadingFinished', '1', 40, { encodedDataLength: 7 }),
    ];
    for (const [first, second, third] of [
      [0, 1, 2],
      [0, 2, 1],
      [1, 0, 2],
      [1, 2, 0],
      [2, 0, 1],
      [2, 1, 0],
    ] as const) {
      told = [];
      for (const one of [first, second, third]) tell[one]!();
      expect(told).toMatchObject([{ at, data: { status: 200, firstByteMs: 24, size: 7 } }]);
      expect(exchanges.underWay).toBe(0);
    }
    exchanges.finish(at + 900);
    expect(told).toHaveLength(1);
  });

  it('a connection that broke before its request was told of is told as broken', () => {
    debugging('loadingFailed', '1', 40, { errorText: 'net::ERR_CONNECTION_REFUSED' });
    exchanges.begun(asked('1'));
    expect(told).toMatchObject([{ data: { failed: 'net::ERR_CONNECTION_REFUSED' } }]);
    expect(exchanges.underWay).toBe(0);
  });

  it('a page that stops reading lets go of it; it arrived with its head', () => {
    exchanges.begun(asked('1'));
    exchanges.answered(head('1', 200, 12), at + 15);
    debugging('loadingFailed', '1', 264, { canceled: true });
    expect(told[0]).toMatchObject({ until: at + 264, data: { status: 200, bodyEnd: 'let go' } });
    expect(arrivedAt(told[0]!)).toBe(at + 12);
  });

  it('also where that is told of a request the driver has forgotten', () => {
    exchanges.begun(asked('1'));
    exchanges.answered(head('1', 200, 12), at + 15);
    const forgotten = asked('1');
    exchanges.failed(
      {
        ...forgotten,
        timestamp: 0,
        errorText: 'net::ERR_ABORTED',
        request: { ...forgotten.request, timings: { timeOrigin: 0, requestTime: 0 } },
      },
      at + 266,
    );
    expect(told[0]).toMatchObject({ until: at + 266, data: { status: 200, bodyEnd: 'let go' } });
  });

  it('a page that gives up before the head has no answer', () => {
    exchanges.begun(asked('1'));
    debugging('loadingFailed', '1', 150, { canceled: true, errorText: 'net::ERR_ABORTED' });
    exchanges.failed({ ...asked('1'), errorText: 'net::ERR_ABORTED' }, at + 190);
    expect(told[0]).toMatchObject({ until: at + 150, data: { failed: letGo } });
  });

  it('a broken connection says why, before the head or after it', () => {
    exchanges.begun(asked('1'));
    exchanges.failed({ ...asked('1'), errorText: 'net::ERR_CONNECTION_REFUSED' }, at + 9);
    exchanges.begun(asked('2'));
    exchanges.answered(head('2', 200, 20), at + 20);
    debugging('loadingFailed', '2', 80, { canceled: false, errorText: 'net::ERR_INCOMPLETE_CHUNKED_ENCODING' });
    expect(told.map(({ data }) => [data.status, data.failed])).toEqual([
      [undefined, 'net::ERR_CONNECTION_REFUSED'],
      [200, 'net::ERR_INCOMPLETE_CHUNKED_ENCODING'],
    ]);
  });

  it('redirects are exchanges of their own, each with its status', () => {
    exchanges.begun(asked('1'));
    exchanges.answered(head('1', 302, 60), at + 70);
    exchanges.begun(asked('1', { redirectCount: 1, timestamp: at + 62, url: 'http://ferry.test/b' }));
    exchanges.answered(
      {
        ...head('1', 200, 10, { redirectCount: 1, timestamp: at + 62 }),
        request: { ...head('1', 200, 10).request, timings: { timeOrigin: at + 62, responseStart: 10 } },
      },
      at + 75,
    );
    debugging('loadingFinished', '1', 75);
    expect(told.map(({ data, at: from, until }) => [data.status, from - at, until! - at])).toEqual([
      [302, 0, 60],
      [200, 62, 75],
    ]);
  });

  it('what comes out of the cache says so', () => {
    exchanges.begun(asked('1'));
    const params = head('1', 200, 1);
    exchanges.answered({ ...params, response: { ...params.response!, fromCache: true } }, at + 5);
    debugging('loadingFinished', '1', 3);
    expect(told[0]!.data.fromCache).toBe(true);
  });
});

describe('a browser that stamps each of its events', () => {
  it('is believed about head and end', () => {
    exchanges.begun(asked('1'));
    exchanges.answered(stamped(head('1', 200, 0), 71, { responseStart: at + 69 }), at + 120);
    exchanges.completed(stamped(head('1', 200, 0), 415, { responseStart: at + 69, responseEnd: at + 412 }), at + 500);
    expect(told[0]).toMatchObject({ until: at + 412, data: { firstByteMs: 69 } });
  });

  it('also where nothing was timed, as for what a worker answers', () => {
    exchanges.begun(asked('1'));
    exchanges.answered(stamped(head('1', 203, 0), 94), at + 120);
    exchanges.completed(stamped(head('1', 203, 0), 96), at + 130);
    expect(told[0]).toMatchObject({ until: at + 96, data: { firstByteMs: 94, status: 203 } });
  });

  it('names kinds in the same words', () => {
    const params = asked('1');
    exchanges.begun({
      ...params,
      request: { ...params.request, 'goog:resourceType': undefined, initiatorType: 'xmlhttprequest' },
    });
    exchanges.finish(at);
    expect(told[0]!.data.type).toBe('xhr');
  });
});

describe('sockets', () => {
  it('are exchanges from their handshake to their close', () => {
    debugging('webSocketCreated', 's', 0, { url: 'ws://ferry.test/socket' });
    debugging('webSocketWillSendHandshakeRequest', 's', 1, {
      wallTime: (at + 1) / 1000,
      request: { headers: { a: 'b' } },
    });
    debugging('webSocketHandshakeResponseReceived', 's', 12, { response: { status: 101, headers: {} } });
    debugging('webSocketClosed', 's', 900);
    expect(told[0]).toMatchObject({ data: { type: 'websocket', status: 101, own: true, requestHeaders: { a: 'b' } } });
    expect(told[0]!.until! - at).toBeCloseTo(900, 0);
    expect(told[0]!.data.firstByteMs).toBeCloseTo(12, 0);
  });
});

describe('what makes no sense', () => {
  it('costs nothing: data addresses, answers to nothing, ends of nothing', () => {
    exchanges.begun(asked('1', { url: 'data:image/png;base64,x' }));
    exchanges.answered(head('9', 200, 1), at);
    exchanges.completed(head('9', 200, 1), at);
    for (let i = 0; i < 2000; i++) debugging('loadingFinished', `x${i}`, 1);
    debugging('webSocketClosed', 'y', 1);
    exchanges.finish(at);
    expect(told).toEqual([]);
  });
});
