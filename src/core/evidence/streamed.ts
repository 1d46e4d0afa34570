import { hostOf } from '../formats/har.ts';
import { levelOf } from '../formats/log-text.ts';
import { timeOf } from '../formats/times.ts';
import { commandNamed } from './command-names.ts';
import { lanes, type EvidenceEvent, type Lane, type StepAction } from './event.ts';

/**
 * An event as any runner's reporter sends it, one JSON object a line: `id`, `lane`, a time (`at` in ms
 * from the attempt's start, or `time` as epoch ms or ISO text), and what is known. What a reporter
 * leaves out is filled in as far as it follows from the rest.
 */
type Json = Record<string, unknown>;

const kinds: Record<Lane, readonly string[]> = {
  step: ['command', 'wait', 'pause'],
  poll: ['poll'],
  element: ['appeared', 'absent', 'removed', 'replaced', 'changed', 'moved', 'covered', 'uncovered'],
  page: [
    'navigation-started',
    'navigation-committed',
    'dom-ready',
    'loaded',
    'fragment',
    'title',
    'mutations',
    'layout-shift',
    'focus',
    'held-value',
    'press',
    'circumstances',
    'machine',
  ],
  network: ['exchange'],
  body: ['body'],
  console: ['line', 'exception'],
  screen: ['screenshot', 'frame', 'video'],
  window: ['looked-at', 'opened', 'closed', 'dialog-opened', 'dialog-closed'],
  note: ['note', 'step', 'check', 'recorder'],
  service: ['span'],
};
const actions = new Set<StepAction>([
  'open',
  'find',
  'press',
  'type',
  'clear',
  'read',
  'script',
  'navigate',
  'window',
  'frame',
  'dialog',
  'cookie',
  'keys',
  'picture',
  'settings',
  'wait',
  'pause',
  'check',
  'other',
]);

const isObject = (value: unknown): value is Json =>
  typeof value === 'object' && value !== null && !Array.isArray(value);
const time = (value: unknown, startedAt: number): number | undefined => {
  if (typeof value === 'number' && Number.isFinite(value)) return value - startedAt;
  const read = typeof value === 'string' ? timeOf(value) : undefined;
  return read === undefined ? undefined : read - startedAt;
};

/** No event lies farther from its attempt, ms. */
const farthest = 1e12;

/**
 * Reads one event.
 * @param startedAt of its attempt, epoch ms, for events that tell the time of day
 * @throws Error in words for what cannot be an event
 */
export function readStreamed(raw: unknown, startedAt: number): EvidenceEvent {
  if (!isObject(raw)) throw new Error('an event must be a JSON object');
  const { id, lane } = raw;
  if (typeof id !== 'string' || id === '' || id.length > 200)
    throw new Error('an event needs an “id”, a text of at most 200 characters that is its own in the attempt');
  if (typeof lane !== 'string' || !(lanes as readonly string[]).includes(lane))
    throw new Error(`“lane” must be one of ${lanes.join(', ')}`);
  const known = kinds[lane as Lane];
  const kind = raw.kind ?? known[0];
  if (!known.includes(kind as string)) throw new Error(`“kind” of the lane ${lane} must be one of ${known.join(', ')}`);
  const at = typeof raw.at === 'number' && Number.isFinite(raw.at) ? raw.at : time(raw.time, startedAt);
  if (at === undefined)
    throw new Error('an event needs “at” (ms from the attempt’s start) or “time” (epoch ms, or an ISO text)');
  const until =
    typeof raw.until === 'number' && Number.isFinite(raw.until)
      ? raw.until
      : raw.untilTime === undefined
        ? undefined
        : time(raw.untilTime, startedAt);
  if (Math.abs(at) > farthest || (until !== undefined && Math.abs(until) > farthest))
    throw new Error('“at” is more than thirty years from the attempt’s start; give ms from its start, or “time”');
  if (raw.data !== undefined && !isObject(raw.data)) throw new Error('“data” must be a JSON object');
  const data = filled(lane as Lane, id, { ...raw.data });
  return {
    id,
    lane,
    kind,
    at,
    ...(until === undefined ? {} : { until: Math.max(at, until) }),
    clock: typeof raw.clock === 'string' ? raw.clock.slice(0, 60) : 'reporter',
    data,
  } as unknown as EvidenceEvent;
}

/** Kinds that only we ourselves make. */
const ownKinds: Partial<Record<Lane, readonly string[]>> = { page: ['structure'] };

/**
 * Reads an event as it is stored and exported: everything stands in it, and what screens and analysis go by has the kind
 * it must have.
 * @throws Error in words for what cannot be an event
 */
export function readStored(raw: unknown, startedAt: number): EvidenceEvent {
  if (!isObject(raw)) throw new Error('an event must be a JSON object');
  const { lane, kind } = raw;
  const own = ownKinds[lane as Lane]?.includes(kind as string) === true;
  const event = readStreamed(own ? { ...raw, kind: undefined } : raw, startedAt);
  return (own ? { ...event, kind } : event) as EvidenceEvent;
}

const needs = (data: Json, lane: Lane, ...names: string[]): void => {
  for (const name of names)
    if (typeof data[name] !== 'string') throw new Error(`data of the lane ${lane} needs “${name}”, a text`);
};

function filled(lane: Lane, id: string, data: Json): Json {
  switch (lane) {
    case 'step': {
      needs(data, lane, 'label');
      const action = actions.has(data.action as StepAction) ? data.action : 'other';
      return { ...data, action, command: commandNamed(data.command) };
    }
    case 'console':
      needs(data, lane, 'text');
      return { ...data, level: levelOf(data.level as string | undefined) ?? 'info' };
    case 'network': {
      needs(data, lane, 'url');
      return {
        own: true,
        ...data,
        method: typeof data.method === 'string' ? data.method : 'GET',
        host: hostOf(data.url as string),
        request: typeof data.request === 'string' ? data.request : id,
      };
    }
    case 'body':
      needs(data, lane, 'exchange', 'text');
      return { mime: '', of: 'response', ...data, length: (data.text as string).length };
    case 'service':
      needs(data, lane, 'label', 'trace', 'span');
      return data;
    case 'note':
      needs(data, lane, 'label');
      return data;
    case 'screen':
      needs(data, lane, 'blob');
      return data;
    case 'element':
      needs(data, lane, 'locator');
      if (!isObject(data.state) || typeof data.state.count !== 'number')
        throw new Error('data of the lane element needs “state” with “count”');
      return { label: data.locator, ...data, state: { node: null, ...data.state } };
    case 'poll':
      needs(data, lane, 'wait', 'saw');
      return { ok: false, ...data };
    case 'window':
      needs(data, lane, 'context');
      return data;
    default:
      return data;
  }
}
