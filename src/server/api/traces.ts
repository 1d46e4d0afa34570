import { Hono } from 'hono';
import Joi from 'joi';
import { guarded } from '../../core/background.ts';
import type { EvidenceEvent } from '../../core/evidence/event.ts';
import { attemptOfTrace } from '../../core/evidence/trace-context.ts';
import { isOtlp, otlpEvent, readOtlp, type OtlpRecord } from '../../core/formats/otlp.ts';
import type { Services } from './context.ts';
import { bodyAs, Problem } from './problem.ts';

const anything = Joi.object<Record<string, unknown>>().unknown(true);
/** Most spans that are kept of one attempt, and of a name as many letters. */
const mostSpans = 5000;
const longestId = 32;

/**
 * Takes in what services exported by OTLP over HTTP, as JSON: spans of traces that recording began are kept with the attempt
 * they belong to. All others are not ours, and the exporter is told how many.
 */
export function traceRoutes({ store, sink, changes }: Services): Hono {
  const app = new Hono();
  app.post('/v1/traces', async (c) => {
    if (!/json/.test(c.req.header('content-type') ?? ''))
      throw new Problem(
        415,
        'wrong-type',
        'traces are taken as JSON; set the exporter’s protocol to http/json (OTEL_EXPORTER_OTLP_PROTOCOL)',
      );
    const body = await bodyAs(c, anything);
    if (!isOtlp(body)) throw new Problem(400, 'no-traces', 'the body has no “resourceSpans”');
    const { records, problems } = readOtlp([body], { every: true });
    const byAttempt = new Map<string, OtlpRecord[]>();
    let rejected = problems.length;
    for (const record of records) {
      const attempt = record.lane === 'service' ? attemptOfTrace((record.data as { trace: string }).trace) : undefined;
      if (attempt === undefined) {
        rejected++;
        continue;
      }
      const list = byAttempt.get(attempt);
      if (list) list.push(record);
      else byAttempt.set(attempt, [record]);
    }
    for (const [id, list] of byAttempt) {
      const attempt = store.attempts.get(id);
      const room = attempt ? Math.max(0, mostSpans - store.events.countOf(id, 'service')) : 0;
      rejected += Math.max(0, list.length - room);
      if (attempt && room > 0) {
        const masker = sink.maskerOf(id);
        const events = list.slice(0, room).map((record) => {
          const { trace, span } = record.data as { trace: string; span: string };
          const event = otlpEvent(
            record,
            `t${trace.slice(-4)}${span.slice(0, longestId)}`,
            attempt.startedAt,
            'service',
            new Set(),
          );
          return { ...event, data: masker.value(event.data) } as EvidenceEvent;
        });
        await store.patiently(() => store.events.write(id, events));
        guarded('telling of spans', () => changes.tell({ type: 'evidence', id }), id);
      }
    }
    return c.json(rejected ? { partialSuccess: { rejectedSpans: rejected, errorMessage: notOurs } } : {});
  });
  return app;
}

const notOurs = 'spans of traces that no recorded attempt began are not kept';
