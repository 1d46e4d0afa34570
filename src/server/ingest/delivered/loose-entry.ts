import { bareAddress } from '../../../core/formats/address.ts';
import { eventsOf, type EvidenceEvent } from '../../../core/evidence/event.ts';
import type { Keyed } from '../../../core/evidence/clocks.ts';
import type { Loose, Place } from '../../../core/placing/loose.ts';
import type { Span } from '../../../core/placing/zones.ts';
import type { SourcedSpan, TimedFile } from '../../../core/placing/told-spans.ts';
import type { Attempt } from '../../../core/records.ts';
import type { PlacingTools } from './tools.ts';
import { addressesIn, type LooseFile } from './read-loose.ts';

/** A file that is being placed. */
export interface LooseEntry {
  file: LooseFile;
  id: string;
  blob: string;
  /** What it covers, in each way its times may be meant, once zones are settled. */
  spans: SourcedSpan[];
  speaksOf: Map<string, 'test' | 'failure'>;
  /** Lines of it that name tests or failures, with when those were. */
  anchors: { at: number; span: Span }[];
}

/** A file that nothing is known of yet. */
export const freshEntry = (file: LooseFile, id: string, blob: string): LooseEntry => ({
  file,
  id,
  blob,
  spans: [],
  speaksOf: new Map(),
  anchors: [],
});

const isMoment = ({ kind }: LooseFile): boolean => kind === 'picture' || kind === 'markup' || kind === 'text';
const isShown = ({ kind }: LooseFile): boolean => kind === 'picture' || kind === 'video';

export function looseOf({ file, id, spans, speaksOf }: LooseEntry): Loose {
  const { durationMs, width, height, addresses } = file.facts;
  return {
    id,
    path: file.name,
    kind: isMoment(file) ? 'moment' : 'lasting',
    ...(isShown(file) ? { shown: true } : {}),
    alone: file.kind !== 'video' && file.kind !== 'har',
    ownClock: file.kind === 'log' || file.kind === 'trace' || file.kind === 'har',
    spans,
    speaksOf,
    ...(durationMs === undefined ? {} : { durationMs }),
    ...(width && height ? { width, height } : {}),
    ...(addresses ? { addresses } : {}),
  };
}

/** What it tells of when it was. */
export function timedOf({ file, id }: LooseEntry, anchors: TimedFile['anchors'] = []): TimedFile {
  const { from, until, durationMs } = file.facts;
  return {
    id,
    path: file.name,
    kind: isMoment(file) ? 'moment' : 'lasting',
    ...(from === undefined
      ? {}
      : {
          content: {
            from,
            until: until ?? from,
            local: file.local !== undefined,
            ...(file.local?.dayless ? { dayless: true } : {}),
          },
        }),
    ...(file.modifiedAt === undefined ? {} : { written: { at: file.modifiedAt, local: file.modifiedLocal ?? false } }),
    ...(durationMs === undefined ? {} : { durationMs }),
    anchors,
  };
}

/** Starts added up from durations leave out what runners do between tests. */
const summedSlack = 1500;
/** Reports that cut their times to seconds. */
const cutSlack = 1000;

/** When an attempt ran, and whether anybody told. */
export const windowOf = ({ startedAt, durationMs, labels }: Attempt): Pick<Place, 'from' | 'until' | 'timed'> => ({
  from: startedAt,
  until: startedAt + durationMs,
  timed: !labels.untimed,
});

export function placeOf(attempt: Attempt, { attachments, store, spaced, reportOf }: PlacingTools): Place {
  const opened =
    attempt.source === 'imported'
      ? []
      : eventsOf(store.events.page(attempt.id, { lane: ['step'], limit: 200 }).events, 'step').flatMap((step) =>
          step.data.action === 'open' ? [step.data.input ?? ''] : [],
        );
  const { summed, worker } = attempt.labels;
  const report = reportOf?.get(attempt.id);
  const slack = summed
    ? (spaced?.get(attempt.id) ?? summedSlack)
    : attempt.source === 'imported' && attempt.startedAt % 1000 === 0
      ? cutSlack
      : 0;
  return {
    id: attempt.id,
    suite: attempt.test.suite,
    title: attempt.test.title,
    number: attempt.number,
    environment: attempt.environment,
    ...windowOf(attempt),
    ...(slack ? { slack } : {}),
    failed: attempt.outcome === 'failed' || attempt.outcome === 'errored',
    attachments: attachments.get(attempt.id) ?? [],
    addresses: addressesIn([attempt.message, ...opened].join('\n')),
    ...(worker === undefined ? {} : { worker }),
    ...(report === undefined ? {} : { folder: report.split('/').slice(0, -1).join('/') }),
  };
}

const asked = /\b(GET|POST|PUT|PATCH|DELETE)\s+"?(?:https?:\/\/[^/\s"]{1,200})?(\/[^\s?"#]{0,300})/;

/** Requests that a file tells of, by what they are. */
export function requestsOf(events: readonly EvidenceEvent[]): Keyed[] {
  return events.flatMap((event) => {
    if (event.lane === 'network') {
      const path = bareAddress(event.data.url).replace(/^[a-z]{2,6}:\/\/[^/]*/, '');
      return [{ key: `${event.data.method.toUpperCase()} ${path || '/'}`, at: event.at }];
    }
    if (event.lane !== 'console') return [];
    const found = asked.exec(event.data.text.slice(0, 2000));
    return found ? [{ key: `${found[1]!} ${found[2]!}`, at: event.at }] : [];
  });
}
