import { endOf, type NetworkEvent, type ServiceEvent } from './event.ts';

/** W3C trace context: what joins what a service did to the request that had it do so. */
export interface TraceContext {
  /** 32 hexadecimal digits. */
  trace: string;
  /** 16 hexadecimal digits: the span that asked. */
  span: string;
}

const shape = /^[0-9a-f]{2}-([0-9a-f]{32})-([0-9a-f]{16})-[0-9a-f]{2}/;
/** Of traces that recording began: these letters in hexadecimal digits, and the attempt's own at the end. */
const ours = '69736b656c';
const attemptShape = /^a-([0-9a-f]{12})$/;

/** Reads a `traceparent`; nothing of one that is none. */
export function readTraceparent(header: string | undefined): TraceContext | undefined {
  const [, trace, span] = shape.exec(header?.trim().toLowerCase() ?? '') ?? [];
  return trace && span && !/^0+$/.test(trace) && !/^0+$/.test(span) ? { trace, span } : undefined;
}

/** What is sent along with a request of an attempt. @param span 16 hexadecimal digits, not all nought */
export const traceparentOf = (attempt: string, span: string): string | undefined => {
  const trace = traceOf(attempt);
  return trace && `00-${trace}-${span}-01`;
};

/** The trace of a recorded attempt; an attempt with an id of another form has none. */
export function traceOf(attempt: string): string | undefined {
  const digits = attemptShape.exec(attempt)?.[1];
  return digits && `${ours}${'0'.repeat(10)}${digits}`;
}

/** The attempt that a trace belongs to, if recording began it. */
export function attemptOfTrace(trace: string): string | undefined {
  const digits = /^69736b656c0{10}([0-9a-f]{12})$/.exec(trace.toLowerCase())?.[1];
  return digits && `a-${digits}`;
}

/**
 * What services did for one request: spans that were begun by it, and by those, in time order.
 * @param spans of the attempt
 */
export function servedBy(request: NetworkEvent, spans: readonly ServiceEvent[]): ServiceEvent[] {
  const header = Object.entries(request.data.requestHeaders ?? {}).find(
    ([name]) => name.toLowerCase() === 'traceparent',
  );
  const sent = readTraceparent(header?.[1]);
  if (!sent) return [];
  const own = spans.filter(({ data }) => data.trace === sent.trace);
  const known = new Set([sent.span]);
  const out = new Set<ServiceEvent>();
  // Children may be told before their parents: looked through until nobody more is found.
  for (let before = -1; before < out.size;) {
    before = out.size;
    for (const one of own)
      if (one.data.parent !== undefined && known.has(one.data.parent)) {
        known.add(one.data.span);
        out.add(one);
      }
  }
  return [...out].sort((a, b) => a.at - b.at || endOf(b) - endOf(a));
}
