import type { ConsoleData, EvidenceEvent, NetworkData, SpanData } from '../evidence/event.ts';
import { shorten } from '../evidence/labels.ts';
import { levelOf } from './log-text.ts';
import { hostOf } from './har.ts';
import type { Trouble } from './report.ts';

/** OTLP/JSON traces and logs: spans of HTTP calls that a client made become exchanges, other spans what services did, log records lines. */
export interface OtlpRecord {
  /** Epoch ms. */
  at: number;
  until?: number;
  lane: 'network' | 'console' | 'service';
  data: Omit<NetworkData, 'request' | 'own'> | ConsoleData | SpanData;
}

export interface Otlp {
  services: string[];
  records: OtlpRecord[];
  /** Attributes of the resources, which may name a test or a run. */
  attributes: Record<string, string>;
  problems: Trouble[];
}

type Json = Record<string, unknown>;
const object = (value: unknown): Json =>
  value && typeof value === 'object' && !Array.isArray(value) ? (value as Json) : {};
const list = (value: unknown): Json[] => (Array.isArray(value) ? value.map(object) : []);

/** An attribute list as a map; values as text. */
function attributesOf(value: unknown): Record<string, string> {
  const out: Record<string, string> = {};
  for (const { key, value: held } of list(value).slice(0, 500)) {
    const inner = object(held);
    const one = inner.stringValue ?? inner.intValue ?? inner.doubleValue ?? inner.boolValue;
    if (typeof key === 'string' && one !== undefined) out[key] = String(one);
  }
  return out;
}

/** Nanoseconds since the epoch, written as a text because they do not fit a number, as ms with fractions. */
function nanos(value: unknown): number | undefined {
  const text = typeof value === 'number' ? String(value) : value;
  if (typeof text !== 'string' || !/^\d{10,20}$/.test(text)) return undefined;
  return Number(text.slice(0, -6)) + Number(text.slice(-6)) / 1e6;
}

export const isOtlp = (value: unknown): boolean => {
  const top = object(value);
  return Array.isArray(top.resourceSpans) || Array.isArray(top.resourceLogs);
};

/**
 * @param values one exported request each: a file holds one, or one a line
 * @param options.every spans of a client's calls are what services did, too: the browser tells of its own requests itself
 */
export function readOtlp(values: readonly unknown[], { every = false } = {}): Otlp {
  const records: OtlpRecord[] = [];
  const problems: Trouble[] = [];
  const services = new Set<string>();
  const attributes: Record<string, string> = {};
  for (const value of values) {
    const top = object(value);
    for (const resource of [...list(top.resourceSpans), ...list(top.resourceLogs)]) {
      const told = attributesOf(object(resource.resource).attributes);
      Object.assign(attributes, told);
      if (told['service.name']) services.add(told['service.name']);
      for (const scope of list(resource.scopeSpans))
        for (const span of list(scope.spans)) readSpan(span, told['service.name'], every, records, problems);
      for (const scope of list(resource.scopeLogs))
        for (const record of list(scope.logRecords)) readRecord(record, told['service.name'], records);
    }
  }
  records.sort((a, b) => a.at - b.at);
  return { services: [...services], records, attributes, problems };
}

/** Names are made by programs: more of one than this is data. */
const longestName = 200;
/** Kinds of spans that are what a service did when it was asked: server, producer and consumer. */
const servers = new Set(['2', '4', '5', 'SPAN_KIND_SERVER', 'SPAN_KIND_PRODUCER', 'SPAN_KIND_CONSUMER']);

function readSpan(
  span: Json,
  service: string | undefined,
  every: boolean,
  into: OtlpRecord[],
  problems: Trouble[],
): void {
  const at = nanos(span.startTimeUnixNano);
  const until = nanos(span.endTimeUnixNano);
  if (at === undefined) {
    if (problems.length < 20)
      problems.push({ line: into.length + 1, message: `span “${String(span.name)}” has no readable start` });
    return;
  }
  const told = attributesOf(span.attributes);
  const failed = object(span.status).code === 2 || object(span.status).code === 'STATUS_CODE_ERROR';
  const url = told['url.full'] ?? told['http.url'];
  const method = told['http.request.method'] ?? told['http.method'];
  const status = Number(told['http.response.status_code'] ?? told['http.status_code']);
  const end = until === undefined ? {} : { until };
  const served = every || servers.has(String(span.kind));
  if (method && url && !served) {
    into.push({
      at,
      ...end,
      lane: 'network',
      data: {
        method,
        url,
        host: hostOf(url),
        type: service ? `span of ${service}` : 'span',
        ...(status ? { status } : {}),
        ...(failed && !status ? { failed: String(object(span.status).message ?? 'failed') } : {}),
      },
    });
  } else {
    into.push({
      at,
      ...end,
      lane: 'service',
      data: {
        label: `${service ? `${service}: ` : ''}${shorten(String(span.name ?? 'span'), longestName)}${status ? `, ${status}` : ''}`,
        ...(service ? { service } : {}),
        ...(failed ? { ok: false } : {}),
        span: String(span.spanId ?? ''),
        trace: String(span.traceId ?? ''),
        ...(span.parentSpanId ? { parent: String(span.parentSpanId) } : {}),
      },
    });
  }
  for (const event of list(span.events)) {
    const when = nanos(event.timeUnixNano);
    const more = attributesOf(event.attributes);
    if (when === undefined) continue;
    const exception = event.name === 'exception';
    into.push({
      at: when,
      lane: 'console',
      data: {
        level: exception ? 'error' : 'info',
        text: exception
          ? [more['exception.type'], more['exception.message']].filter(Boolean).join(': ')
          : String(event.name),
        ...(more['exception.stacktrace'] ? { stack: more['exception.stacktrace'] } : {}),
        ...(service ? { source: service } : {}),
      },
    });
  }
}

function readRecord(record: Json, service: string | undefined, into: OtlpRecord[]): void {
  const at = nanos(record.timeUnixNano) ?? nanos(record.observedTimeUnixNano);
  if (at === undefined) return;
  const body = object(record.body);
  const severity = typeof record.severityNumber === 'number' ? record.severityNumber : 9;
  into.push({
    at,
    lane: 'console',
    data: {
      level:
        levelOf(record.severityText as string | undefined) ??
        (severity >= 17 ? 'error' : severity >= 13 ? 'warning' : severity >= 9 ? 'info' : 'debug'),
      text: String(body.stringValue ?? JSON.stringify(record.body ?? '')),
      ...(service ? { source: service } : {}),
    },
  });
}

/** An OTLP record as evidence of an attempt that began at `startedAt`. */
export function otlpEvent(
  record: OtlpRecord,
  id: string,
  startedAt: number,
  clock: string,
  ownHosts: ReadonlySet<string>,
): EvidenceEvent {
  const base = {
    id,
    at: record.at - startedAt,
    ...(record.until === undefined ? {} : { until: record.until - startedAt }),
    clock,
  };
  if (record.lane === 'network') {
    const data = record.data as Omit<NetworkData, 'request' | 'own'>;
    return {
      ...base,
      lane: 'network',
      kind: 'exchange',
      data: { ...data, request: id, own: ownHosts.size === 0 || ownHosts.has(data.host) },
    };
  }
  if (record.lane === 'console') return { ...base, lane: 'console', kind: 'line', data: record.data as ConsoleData };
  return { ...base, lane: 'service', kind: 'span', data: record.data as SpanData };
}
