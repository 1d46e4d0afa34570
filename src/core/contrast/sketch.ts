import { bareAddress } from '../formats/address.ts';
import type { Environment, Outcome } from '../evidence/attempt.ts';
import {
  arrivedAt,
  endOf,
  type NetworkData,
  type NetworkEvent,
  type StepAction,
  type StepEvent,
} from '../evidence/event.ts';
import { keysWritten } from '../evidence/keys.ts';
import { shorten } from '../evidence/labels.ts';
import { actedAt } from '../evidence/landing.ts';
import { fileName, isFilePath } from '../evidence/file-path.ts';
import { heldAfter, holds } from '../evidence/held.ts';
import { presenceOf, segmentAt, type Lifeline, type LifelineSegment, type Presence } from '../evidence/lifelines.ts';
import { locatorKey } from '../evidence/locator.ts';
import type { Evidence } from '../evidence/prepare.ts';
import { linePattern } from '../evidence/usual.ts';
import { median } from '../stats/median.ts';

/** Raised whenever a sketch holds something else, so that older ones are drawn anew. */
export const sketchVersion = 9;

/** One thing the test did, with what was true when it did it. Finds are told by what was done with what they found. */
export interface SketchStep {
  /** Equal signatures mean the same thing done; data that was typed or seen does not belong to it. */
  sig: string;
  action: StepAction;
  /** `locatorKey` of its target. */
  locator?: string;
  /** The events it was drawn from, the telling one first. */
  events: string[];
  label: string;
  at: number;
  until: number;
  error?: string;
  /** What it read or was answered, shortened. */
  value?: string;
  input?: string;
  /** Path of the page it spoke to, and its title. */
  page?: string;
  title?: string;
  /** Which window or frame it spoke to, in the order in which they opened. */
  window?: number;
  /** State of the target's first match. */
  presence?: Presence;
  matches?: number;
  text?: string;
  /** Since when the target had been so and had read so. */
  since?: number;
  /** The same where it was seen to become so: what stood there when somebody began to look may have come long before. */
  arrived?: number;
  /** Whether the field held what was typed, and what it held otherwise; absent where nobody saw. */
  held?: boolean;
  holds?: string;
  /** What a press by pointer actions reached, for which nobody looks beforehand. */
  reached?: string;
  /** Keys of requests under way when it began, and for how long they still were, ms. */
  inFlight: Record<string, number>;
  /** Tries, when it was a wait. */
  polls?: number;
}

export interface SketchRequest {
  key: string;
  event: string;
  at: number;
  until: number;
  own: boolean;
  type: string;
  /** First digit of the status with `xx`, or `failed`; `open` when no answer was recorded. */
  ended: string;
  /** Status as it was; absent when there was none. */
  status?: number;
}

/** Tests of the same run that ran while an attempt did, and the one that ended last before it in the same worker. */
export interface Neighbours {
  beside: string[];
  after?: string;
}

/** One attempt in so few words that hundreds can be held against each other. */
export interface Sketch {
  id: string;
  outcome: Outcome;
  environment: Environment;
  commit?: string;
  /** Wall clock of its start, ms. */
  startedAt: number;
  /** Absent where its source told no times. */
  neighbours?: Neighbours;
  until: number;
  /** The browser told nothing of itself: that no line, dialog or window is known does not mean there was none. */
  blind?: true;
  /** How long plain finds and reads of what was there took, in the middle, and how many there were. */
  pace?: { ms: number; count: number };
  steps: SketchStep[];
  requests: SketchRequest[];
  console: {
    key: string;
    /** Where it came from, without what varies: two that say the same are told apart by it. */
    from?: string;
    level: string;
    uncaught: boolean;
    at: number;
    event: string;
    text: string;
  }[];
  checks: { label: string; ok: boolean; at: number; event: string; expected?: string; actual?: string }[];
  dialogs: { at: number; event: string; text: string }[];
  windows: { at: number; event: string; address: string }[];
  /** What each page was made of when it had first come to rest: equal blobs are equal pages. */
  structures: { page: string; blob: string; at: number; event: string }[];
}

/** What a sketch is told besides the evidence. */
export interface SketchFacts {
  id: string;
  commit?: string;
  startedAt: number;
  neighbours?: Neighbours;
}

/** Longest text kept of one value. */
const mostText = 160;
/** A page tells of a press within this of its end, ms. */
const pressToldMs = 40;

/** Pointer actions that press: where they do, nobody looks what stands there. */
export const byPointer = ({ data }: StepEvent): boolean =>
  data.action === 'keys' && /pointerDown/.test(data.input ?? '');

/** Draws the sketch of one attempt. Costs about as much as reading its events once. */
export function sketchOf(evidence: Evidence, facts: SketchFacts): Sketch {
  const { window: windowEvents } = evidence;
  const windows = windowEvents.filter((event) => event.kind === 'opened');
  const order = new Map(windows.map((event, i) => [event.data.context, i]));
  return {
    id: facts.id,
    outcome: evidence.facts.outcome,
    environment: evidence.facts.environment,
    ...(facts.commit ? { commit: facts.commit } : {}),
    startedAt: facts.startedAt,
    ...(facts.neighbours ? { neighbours: facts.neighbours } : {}),
    until: evidence.until,
    ...(isBlind(evidence) ? { blind: true } : {}),
    ...paceOf(evidence),
    steps: stepsOf(evidence, order),
    requests: evidence.network.map((event) => ({
      key: requestKey(event),
      event: event.id,
      at: event.at,
      until: endOf(event),
      own: event.data.own,
      type: event.data.type ?? '',
      ended: endedOf(event),
      ...(event.data.status ? { status: event.data.status } : {}),
    })),
    console: evidence.console.map((line) => ({
      key: linePattern(line),
      ...(line.data.source ? { from: cameFrom(line.data.source) } : {}),
      level: line.data.level,
      uncaught: line.kind === 'exception' || line.data.uncaught === true,
      at: line.at,
      event: line.id,
      text: shorten(line.data.text, mostText),
    })),
    checks: evidence.notes
      .filter((note) => note.kind === 'check')
      .map((note) => ({
        label: note.data.label,
        ok: note.data.ok !== false,
        at: note.at,
        event: note.id,
        ...(note.data.expected === undefined ? {} : { expected: note.data.expected }),
        ...(note.data.actual === undefined ? {} : { actual: note.data.actual }),
      })),
    dialogs: windowEvents
      .filter((event) => event.kind === 'dialog-opened')
      .map((event) => ({ at: event.at, event: event.id, text: event.data.text ?? '' })),
    structures: structuresOf(evidence),
    windows: windows.map((event) => ({ at: event.at, event: event.id, address: event.data.address ?? '' })),
  };
}

/** Script and line, without host and query. */
export const cameFrom = (source: string): string => source.replace(/^[a-z-]+:\/\/[^/]+/i, '').replace(/\?[^:]*/, '');

/** What a field was asked for after typing is all that is known of the pages of a browser that tells nothing of itself. */
const isBlind = ({ network, page, console }: Evidence): boolean =>
  network.length + console.length === 0 && page.every(({ kind }) => kind === 'held-value');

function structuresOf({ page }: Evidence): Sketch['structures'] {
  const first = new Map<string, Sketch['structures'][number]>();
  for (const { kind, data, at, id } of page) {
    if (kind !== 'structure' || !data.blob || !data.address) continue;
    const path = plainPath(data.address);
    if (first.has(path)) continue;
    // It has been like this since it last changed, not since somebody found the time to write it out.
    const changed = page.findLast(
      (event) => event.at <= at && (event.kind === 'mutations' || event.kind === 'navigation-committed'),
    );
    first.set(path, { page: path, blob: data.blob, at: changed?.at ?? at, event: id });
  }
  return [...first.values()];
}

function paceOf({ steps }: Evidence): Pick<Sketch, 'pace'> {
  const plain = steps.filter(({ data }) => (data.action === 'find' || data.action === 'read') && !data.error);
  return plain.length ? { pace: { ms: median(plain.map((step) => endOf(step) - step.at)), count: plain.length } } : {};
}

/** A request without what varies: ids and numbers in its path, its query, how it ended. */
export const requestKey = ({ data }: NetworkEvent): string => keyOfRequest(data);

type Asked = Pick<NetworkData, 'method' | 'own' | 'host' | 'url'>;

/** The same of a request that is no evidence yet. Many ask for it, of each request. */
export function keyOfRequest(data: Asked): string {
  const known = keys.get(data);
  if (known !== undefined) return known;
  const key = keyOf(data);
  keys.set(data, key);
  return key;
}
const keys = new WeakMap<Asked, string>();

function keyOf(data: Asked): string {
  return `${data.method} ${data.own ? '' : `${data.host.replace(/:\d+$/, '')} `}${plainPath(data.url)}`;
}

/** The path of an address with what varies in it left out. */
export function plainPath(address: string): string {
  const path = bareAddress(address.replace(/^[a-z-]+:\/\/[^/]+/i, ''));
  return (
    path
      .split('/')
      .map((part) => (/\d{2,}|^\d+$|[0-9a-f]{8,}/i.test(part) ? '#' : part))
      .join('/') || '/'
  );
}

function endedOf({ data }: NetworkEvent): string {
  if (data.status) return `${Math.floor(data.status / 100)}xx`;
  if (data.failed?.startsWith('still under way')) return 'open';
  return data.failed ? 'failed' : 'open';
}

/** Steps that say nothing of the page: left out of a sketch. */
const aside: ReadonlySet<StepAction> = new Set(['picture', 'settings', 'pause']);

function stepsOf(evidence: Evidence, order: ReadonlyMap<string, number>): SketchStep[] {
  const list = [
    ...evidence.steps.filter((step) => !evidence.insideWait.has(step.id) && !aside.has(step.data.action)),
    // A find that waited by itself is there already, as the find.
    ...evidence.waits.filter((wait) => wait.kind === 'wait' && wait.data.command !== 'implicit wait'),
  ].sort((a, b) => a.at - b.at);
  const sweep = new Sweep(evidence);
  const out: SketchStep[] = [];
  for (let i = 0; i < list.length; i++) {
    const step = list[i]!;
    const next = list[i + 1];
    // A find whose element is used right away is one thing with its use.
    const used = step.data.command === 'find element' && !step.data.error && next?.data.foundBy === step.id;
    if (used) continue;
    const before = list[i - 1];
    const find = before?.data.command === 'find element' && step.data.foundBy === before.id ? before : undefined;
    out.push(drawn(evidence, step, find, order, sweep));
  }
  return out;
}

function drawn(
  evidence: Evidence,
  step: StepEvent,
  find: StepEvent | undefined,
  order: ReadonlyMap<string, number>,
  sweep: Sweep,
): SketchStep {
  const { data } = step;
  const at = find?.at ?? step.at;
  // What the step met is what was there when it was carried out, not when its search began.
  const met = step.at;
  const key = data.locator && locatorKey(data.locator);
  const line = key === undefined ? undefined : evidence.lifelines.get(key);
  const state = line && (segmentAt(line, met) ?? segmentAt(line, endOf(step)))?.state;
  const page = sweep.page(met, data.context);
  const value = valueOf(step);
  const inWindow = data.window ?? data.context;
  return {
    sig: signatureOf(step, key),
    action: data.action,
    ...(key === undefined ? {} : { locator: key }),
    events: find ? [step.id, find.id] : [step.id],
    label: data.label,
    at,
    until: endOf(step),
    ...(data.error ? { error: data.error.code } : {}),
    ...(value === undefined ? {} : { value }),
    ...(data.input === undefined || data.action === 'script' ? {} : { input: shorten(inputOf(step), mostText) }),
    ...(page.path === undefined ? {} : { page: page.path }),
    ...(page.title === undefined ? {} : { title: page.title }),
    ...(inWindow === undefined ? {} : { window: order.get(inWindow) ?? -1 }),
    ...(state ? { presence: presenceOf(state), matches: state.count } : {}),
    ...(state?.text ? { text: shorten(state.text, 80) } : {}),
    // What a wait saw in the end came while it waited; what stood there when it began is not what it gave.
    ...(line && state && step.kind !== 'wait' ? sinceOf(line, met, sweep.firstLooked(key)) : {}),
    ...heldOf(evidence, step),
    ...reachedOf(evidence, step),
    inFlight: sweep.inFlight(actedAt(evidence.page, step)),
    ...(data.polls ? { polls: data.polls } : {}),
  };
}

/**
 * When the target came to be, and to read, what it was and read at a time.
 * @param looked when it was first looked for: what nobody watched until then was not seen to come
 */
function sinceOf({ segments }: Lifeline, at: number, looked: number): Pick<SketchStep, 'since' | 'arrived'> {
  let i = segments.findLastIndex((one) => one.from <= at);
  if (i < 0) return {};
  const like = ({ state }: LifelineSegment, other: LifelineSegment): boolean =>
    presenceOf(state) === presenceOf(other.state) && state.text === other.state.text;
  while (i > 0 && like(segments[i - 1]!, segments[i]!)) i--;
  const since = segments[i]!.from;
  return i > 0 || since < looked ? { since, arrived: since } : { since };
}

function heldOf(evidence: Evidence, step: StepEvent): Pick<SketchStep, 'held' | 'holds'> {
  const field = heldAfter(evidence, step);
  if (!field) return {};
  const held = holds(field.text, step.data.input!);
  return held ? { held } : { held, holds: shorten(field.text, mostText) };
}

function reachedOf({ page }: Evidence, step: StepEvent): Pick<SketchStep, 'reached'> {
  if (!byPointer(step)) return {};
  const press = page.find(({ kind, at }) => kind === 'press' && at >= step.at && at <= endOf(step) + pressToldMs);
  return press?.data.label ? { reached: shorten(press.data.label, 80) } : {};
}

function inputOf({ data: { action, input = '' } }: StepEvent): string {
  if (action === 'open') return plainPath(input);
  if (action !== 'type') return input;
  return isFilePath(input) ? fileName(input) : keysWritten(input);
}

function signatureOf({ kind, data }: StepEvent, key: string | undefined): string {
  // A wait is what it asks again and again: asked once, it is the same thing done.
  if (kind === 'wait') return `${data.subject ? `read ${data.subject}` : 'find'} ${key ?? 'script'}`;
  if (data.action === 'open') return `open ${plainPath(data.input ?? '')}`;
  if (data.action === 'script') return `script ${(data.input ?? '').slice(0, 200)}`;
  return `${data.action === 'other' || data.action === 'keys' ? data.command : data.action}${data.subject ? ` ${data.subject}` : ''} ${key ?? ''}`;
}

function valueOf({ data }: StepEvent): string | undefined {
  if (data.error || data.result === undefined || data.result === null) return undefined;
  if (data.action === 'find' && typeof data.result !== 'number') return undefined;
  return shorten(typeof data.result === 'string' ? data.result : JSON.stringify(data.result), mostText);
}

/** Asks about moments in time order, so that an attempt of a hundred thousand events is gone through once. */
class Sweep {
  private readonly network: NetworkEvent[];
  private readonly keys = new Map<string, string>();
  private flying: NetworkEvent[] = [];
  private nextRequest = 0;
  private nextPage = 0;
  private readonly pages = new Map<string | undefined, { path?: string; title?: string }>();
  private readonly arrivals = new Map<string, number>();
  private readonly looked = new Map<string, number>();

  constructor(private readonly evidence: Evidence) {
    this.network = [...evidence.network].sort((a, b) => a.at - b.at);
    for (const { at, data } of evidence.steps) {
      const key = data.locator && locatorKey(data.locator);
      if (key !== undefined && !this.looked.has(key)) this.looked.set(key, at);
    }
  }

  /** When a locator was first looked for; long ago where no step did, so that nothing counts as seen to come. */
  firstLooked(key: string | undefined): number {
    return (key === undefined ? undefined : this.looked.get(key)) ?? -Infinity;
  }

  /** Keys of the requests under way at a time, and for how long they still were. */
  inFlight(at: number): Record<string, number> {
    this.pageEvents(at);
    for (; this.nextRequest < this.network.length && this.network[this.nextRequest]!.at < at; this.nextRequest++)
      this.flying.push(this.network[this.nextRequest]!);
    this.flying = this.flying.filter((request) => arrivedAt(request) > at);
    const out: Record<string, number> = {};
    for (const request of this.flying) {
      // A page that has begun to stand there is no request under way any more, whatever of it is still being read.
      const stands = request.data.type === 'document' && (this.arrivals.get(request.data.url) ?? -1) >= request.at;
      if (!stands) out[this.keyOf(request)] = Math.round(arrivedAt(request) - at);
    }
    return out;
  }

  /** The page that a context showed; without a context the one that changed last. */
  page(at: number, context: string | undefined): { path?: string; title?: string } {
    this.pageEvents(at);
    return this.pages.get(context) ?? this.pages.get(undefined) ?? {};
  }

  private keyOf(request: NetworkEvent): string {
    let key = this.keys.get(request.id);
    if (key === undefined) this.keys.set(request.id, (key = requestKey(request)));
    return key;
  }

  private pageEvents(at: number): void {
    const { page } = this.evidence;
    for (; this.nextPage < page.length && page[this.nextPage]!.at <= at; this.nextPage++) {
      const { kind, data, at: when } = page[this.nextPage]!;
      for (const context of data.context === undefined ? [undefined] : [data.context, undefined]) {
        const shown = this.pages.get(context) ?? {};
        if (kind === 'title' && data.title !== undefined) this.pages.set(context, { ...shown, title: data.title });
        else if (kind === 'navigation-committed' || kind === 'fragment' || kind === 'loaded') {
          const path = data.address && `${plainPath(data.address)}${/#.+/.exec(data.address)?.[0] ?? ''}`;
          const kept = kind === 'navigation-committed' && path !== shown.path ? {} : shown;
          this.pages.set(context, path ? { ...kept, path } : kept);
        }
      }
      if (kind === 'navigation-committed' && data.address) this.arrivals.set(data.address, when);
    }
  }
}
