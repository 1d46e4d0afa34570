import { isoOf } from './times.ts';
import type { EvidenceEvent, NetworkData, NetworkEvent } from '../evidence/event.ts';
import { eventsOf } from '../evidence/event.ts';
import type { Trouble } from './report.ts';
import { timeOf } from './times.ts';

/** One exchange of an HTTP archive, before it is tied to an attempt's clock. */
export interface HarExchange {
  /** Epoch ms. */
  at: number;
  durationMs: number;
  data: Omit<NetworkData, 'request' | 'own'>;
}

export interface Har {
  creator: string;
  pages: { title: string; at: number }[];
  exchanges: HarExchange[];
  /** Address of the first document asked for. */
  document?: string;
  problems: Trouble[];
}

type Json = Record<string, unknown>;
const object = (value: unknown): Json =>
  value && typeof value === 'object' && !Array.isArray(value) ? (value as Json) : {};
const list = (value: unknown): unknown[] => (Array.isArray(value) ? value : []);
const text = (value: unknown): string => (typeof value === 'string' ? value : '');
const positive = (value: unknown): number => (typeof value === 'number' && value > 0 ? value : 0);

const headerMap = (value: unknown): Record<string, string> =>
  Object.fromEntries(
    list(value)
      .slice(0, 200)
      .map((one) => [text(object(one).name).toLowerCase(), text(object(one).value)]),
  );

/** @throws Error in words when the value is no HTTP archive */
export function readHar(value: unknown): Har {
  const log = object(object(value).log);
  if (!Array.isArray(log.entries)) throw new Error('this is no HTTP archive: log.entries is missing');
  const problems: Trouble[] = [];
  const exchanges: HarExchange[] = [];
  log.entries.forEach((raw, i) => {
    const entry = object(raw);
    const asked = object(entry.request);
    const response = object(entry.response);
    const at = timeOf(text(entry.startedDateTime));
    const url = text(asked.url);
    if (at === undefined || !url) {
      if (problems.length < 20)
        problems.push({ line: i + 1, message: `entry ${i + 1} has no ${url ? 'readable start time' : 'address'}` });
      return;
    }
    const timings = object(entry.timings);
    const waited = ['blocked', 'dns', 'connect', 'send', 'wait'].reduce((sum, key) => sum + positive(timings[key]), 0);
    const phases = Object.fromEntries(
      ['blocked', 'dns', 'connect', 'ssl', 'send', 'wait', 'receive'].map((key) => [key, positive(timings[key])]),
    );
    const status = positive(response.status);
    const content = object(response.content);
    const failed = text(response._error) || (status ? '' : 'no answer');
    exchanges.push({
      at,
      durationMs: positive(entry.time),
      data: {
        method: text(asked.method) || 'GET',
        url,
        host: hostOf(url),
        ...(text(entry._resourceType) ? { type: text(entry._resourceType) } : {}),
        ...(status ? { status } : {}),
        ...(text(content.mimeType) ? { mime: text(content.mimeType) } : {}),
        ...(positive(content.size) ? { size: positive(content.size) } : {}),
        ...(failed ? { failed } : {}),
        requestHeaders: headerMap(asked.headers),
        responseHeaders: headerMap(response.headers),
        ...(waited ? { firstByteMs: waited } : {}),
        phases,
      },
    });
  });
  exchanges.sort((a, b) => a.at - b.at);
  const first = exchanges.find(({ data }) => data.type === 'document' || /html/.test(data.mime ?? '')) ?? exchanges[0];
  return {
    creator: text(object(log.creator).name),
    pages: list(log.pages).flatMap((raw) => {
      const at = timeOf(text(object(raw).startedDateTime));
      return at === undefined ? [] : [{ title: text(object(raw).title), at }];
    }),
    exchanges,
    ...(first ? { document: first.data.url } : {}),
    problems,
  };
}

export const hostOf = (url: string): string =>
  /^[a-z][a-z0-9+.-]*:\/\/([^/?#]*)/i.exec(url)?.[1]?.replace(/^.*@/, '') ?? '';

/** The network evidence of an attempt as an HTTP archive 1.2. */
export function writeHar(events: readonly EvidenceEvent[], startedAt: number, title: string, version: string): string {
  const headers = (map: Record<string, string> | undefined): { name: string; value: string }[] =>
    Object.entries(map ?? {}).map(([name, value]) => ({ name, value }));
  const bodies = new Map(eventsOf(events, 'body').map(({ data }) => [`${data.exchange} ${data.of}`, data] as const));
  const entry = ({ id, at, until, data }: NetworkEvent): Json => {
    const sent = bodies.get(`${id} request`);
    const came = bodies.get(`${id} response`);
    const time = Math.max(0, (until ?? at) - at);
    const wait = data.firstByteMs ?? time;
    return {
      pageref: 'attempt',
      startedDateTime: isoOf(startedAt + at),
      time,
      request: {
        method: data.method,
        url: data.url,
        httpVersion: 'HTTP/1.1',
        cookies: [],
        headers: headers(data.requestHeaders),
        queryString: queryOf(data.url),
        headersSize: -1,
        bodySize: sent ? sent.length : -1,
        ...(sent ? { postData: { mimeType: sent.mime, text: sent.text } } : {}),
      },
      response: {
        status: data.status ?? 0,
        statusText: '',
        httpVersion: 'HTTP/1.1',
        cookies: [],
        headers: headers(data.responseHeaders),
        content: {
          size: came?.length ?? data.size ?? 0,
          mimeType: data.mime ?? '',
          ...(came ? { text: came.text } : {}),
        },
        redirectURL: data.responseHeaders?.location ?? '',
        headersSize: -1,
        bodySize: data.size ?? -1,
        ...(data.failed ? { _error: data.failed } : {}),
      },
      cache: data.fromCache ? { comment: 'from the cache' } : {},
      timings: { send: 0, wait: Math.min(wait, time), receive: Math.max(0, time - wait) },
      ...(data.type ? { _resourceType: data.type } : {}),
    };
  };
  return JSON.stringify(
    {
      log: {
        version: '1.2',
        creator: { name: 'Iskel', version },
        pages: [{ id: 'attempt', title, startedDateTime: isoOf(startedAt), pageTimings: {} }],
        entries: eventsOf(events, 'network').map(entry),
      },
    },
    null,
    1,
  );
}

function queryOf(url: string): { name: string; value: string }[] {
  try {
    return [...new URL(url).searchParams].map(([name, value]) => ({ name, value }));
  } catch {
    return [];
  }
}
