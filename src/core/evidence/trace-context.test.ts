import fc from 'fast-check';
import { expect, it } from 'vitest';
import type { ServiceEvent } from './event.ts';
import { exchange } from './samples.ts';
import { attemptOfTrace, readTraceparent, servedBy, traceOf, traceparentOf } from './trace-context.ts';

const hex = (length: number): fc.Arbitrary<string> =>
  fc.stringMatching(new RegExp(`^[0-9a-f]{${length}}$`)).filter((text) => !/^0+$/.test(text));

it('the trace of an attempt leads back to it, and no other trace does', () => {
  fc.assert(
    fc.property(hex(12), hex(16), (id, span) => {
      const attempt = `a-${id}`;
      expect(readTraceparent(traceparentOf(attempt, span))).toEqual({ trace: traceOf(attempt), span });
      expect(attemptOfTrace(traceOf(attempt)!)).toBe(attempt);
    }),
  );
  fc.assert(
    fc.property(hex(32), (trace) => {
      expect(attemptOfTrace(trace)).toBeUndefined();
    }),
  );
  expect(traceOf('an id of another form')).toBeUndefined();
});

it('what is no context is none, whatever it is', () => {
  expect(readTraceparent(`00-${'0'.repeat(32)}-${'1'.repeat(16)}-01`)).toBeUndefined();
  expect(readTraceparent(`00-${'1'.repeat(32)}-${'0'.repeat(16)}-01`)).toBeUndefined();
  fc.assert(fc.property(fc.option(fc.string(), { nil: undefined }), (text) => void readTraceparent(text)));
});

let count = 0;
const span = (at: number, name: string, parent: string | undefined, trace = 'a'.repeat(32)): ServiceEvent => ({
  id: `s${++count}`,
  lane: 'service',
  kind: 'span',
  at,
  until: at + 5,
  clock: 'service',
  data: { label: name, trace, span: name, ...(parent ? { parent } : {}) },
});

it('gives a request what it began and what that began, in time, and nothing of others', () => {
  const sent = 'b'.repeat(16);
  const request = exchange(0, 50, {
    url: 'http://ferry.test/api/hold',
    requestHeaders: { Traceparent: `00-${'a'.repeat(32)}-${sent}-01` },
  }) as Parameters<typeof servedBy>[0];
  const spans = [
    span(9, 'ledger', 'desk'),
    span(4, 'desk', sent),
    span(5, 'other request', 'c'.repeat(16)),
    span(6, 'other trace', sent, 'd'.repeat(32)),
    span(7, 'desk', 'ledger'),
  ];
  expect(servedBy(request, spans).map(({ data }) => data.label)).toEqual(['desk', 'desk', 'ledger']);
  expect(servedBy(exchange(0, 9, { url: 'http://ferry.test/' }) as typeof request, spans)).toEqual([]);
});
