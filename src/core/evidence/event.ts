/**
 * One attempt is a list of events in time order, plus blobs. Times are milliseconds from the
 * attempt's start, fractions kept. Every payload is plain JSON, so that an event can be stored,
 * sent to a worker and packed as it is.
 */

import type { CommandName } from './command-names.ts';

export const lanes = [
  'step',
  'poll',
  'element',
  'page',
  'network',
  'body',
  'console',
  'screen',
  'window',
  'note',
  'service',
] as const;
export type Lane = (typeof lanes)[number];

/** How a test names an element: the WebDriver strategy and its value, inside another located element or not. */
export interface Locator {
  using: string;
  value: string;
  within?: Locator;
  /** Which of several matches was taken, from 0. Absent means the first. */
  index?: number;
}

export interface Box {
  x: number;
  y: number;
  width: number;
  height: number;
}

export interface WireError {
  code: string;
  message: string;
}

export type StepAction =
  | 'open'
  | 'find'
  | 'press'
  | 'type'
  | 'clear'
  | 'read'
  | 'script'
  | 'navigate'
  | 'window'
  | 'frame'
  | 'dialog'
  | 'cookie'
  | 'keys'
  | 'picture'
  | 'settings'
  | 'wait'
  | 'pause'
  | 'check'
  | 'other';

/** How an element was found, and by which step. */
export interface KnownElement {
  locator: Locator;
  foundBy: string;
}

export interface StepData {
  command: CommandName;
  action: StepAction;
  /** A short sentence a person would say, for example `Press “Hold seat”`. */
  label: string;
  locator?: Locator;
  /** The element id of the protocol. */
  element?: string;
  /** Id of the step that found this element. */
  foundBy?: string;
  /** Elements handed back to the browser within a script or an action, by id. */
  given?: Record<string, KnownElement>;
  /** What was read or asked for: text, attribute, property, css, address, title … */
  subject?: string;
  /** What was typed, opened or executed (masked). */
  input?: string;
  /** What came back, shortened (masked). */
  result?: unknown;
  error?: WireError;
  source?: string;
  /** For waits and pauses inferred from the traffic. */
  polls?: number;
  limitMs?: number;
  /** For checks told by the test. */
  ok?: boolean;
  expected?: string;
  actual?: string;
  /** The browsing context the command was sent to: that of a frame, where the test had gone into one. */
  context?: string;
  /** The window it was sent to. */
  window?: string;
  [extra: string]: unknown;
}

export interface PollData {
  wait: string;
  saw: string;
  ok: boolean;
  node?: string;
}

/** What one locator's first match looks like at one instant. */
export interface ElementState {
  count: number;
  /** Identity of the first match: the same number means the same node. */
  node: number | null;
  tag?: string;
  name?: string;
  text?: string;
  attrs?: Record<string, string>;
  box?: Box;
  visible?: boolean;
  enabled?: boolean;
  inView?: boolean;
  /** What lies over the middle of the element, in words; null when nothing does. */
  coveredBy?: string | null;
  /** In a frame: where the corner of its document is in the window, so that `box` can be found on a picture; null when it cannot be known. */
  offset?: { x: number; y: number } | null;
}

export type ElementKind =
  'absent' | 'appeared' | 'removed' | 'replaced' | 'changed' | 'moved' | 'covered' | 'uncovered';

export interface ElementData {
  /** `locatorKey` of the locator this lifeline belongs to. */
  locator: string;
  label: string;
  context?: string;
  before?: ElementState;
  state: ElementState;
  /** Names of what changed, for kind `changed`. */
  changed?: string[];
}

export interface NetworkData {
  request: string;
  method: string;
  url: string;
  host: string;
  /** True for the hosts the test itself opened. */
  own: boolean;
  type?: string;
  status?: number;
  mime?: string;
  size?: number;
  failed?: string;
  initiator?: string;
  context?: string;
  requestHeaders?: Record<string, string>;
  responseHeaders?: Record<string, string>;
  /** How long each part took, ms: blocked, dns, connect, ssl, send, wait, receive. */
  phases?: Record<string, number>;
  /** Milliseconds from the start until the head of the answer was there: then the answer has come. */
  firstByteMs?: number;
  /** It came out of the browser's cache. */
  fromCache?: boolean;
  /**
   * What became of the body where it did not come whole: the page let go of it (read no further, closed the stream), or
   * its end was not seen before the attempt ended. `until` is then when the head came, or when the page let go.
   */
  bodyEnd?: 'let go' | 'not seen';
}

/** What was sent or came back as the body of an exchange: text, masked, its head and tail where it is long. */
export interface BodyData {
  /** Id of the exchange. */
  exchange: string;
  of: 'request' | 'response';
  mime: string;
  text: string;
  /** Characters the whole body had. */
  length: number;
}

/**
 * When the page had the whole answer it was going to use: the end of its body, or its head where nobody read the body to
 * its end. From then on the request is no longer under way.
 */
export const arrivedAt = (event: NetworkEvent): number =>
  event.data.bodyEnd !== undefined && event.data.firstByteMs !== undefined
    ? event.at + event.data.firstByteMs
    : endOf(event);

/** What `failed` says of a request whose answer had not come when the recording ended. */
export const unanswered = 'still under way when the attempt ended';

export interface ConsoleData {
  level: 'error' | 'warning' | 'info' | 'debug';
  text: string;
  source?: string;
  stack?: string;
  uncaught?: boolean;
  /** An exception that nothing caught and that a handler on the page kept from being told. */
  suppressed?: boolean;
  context?: string;
}

export interface ScreenData {
  blob: string;
  mime: string;
  width: number;
  height: number;
  /** Picture pixels to one CSS pixel. */
  scale: number;
  context?: string;
  /** Of a video: how long it lasts. */
  durationMs?: number;
  /** Shows one element only, not the window. */
  part?: boolean;
  /** The file it came as. */
  name?: string;
}

export interface WindowData {
  context: string;
  address?: string;
  text?: string;
  dialog?: string;
}

/** What a page found itself in at the start of an attempt, as it was asked there. */
export interface Circumstances {
  /** IANA name of the time zone, and its minutes ahead of UTC. */
  zone?: string;
  zoneMinutes?: number;
  locale?: string;
  /** What the page's clock showed, epoch ms. */
  date?: number;
  window?: [width: number, height: number];
  screen?: [width: number, height: number];
  /** Picture pixels to one CSS pixel. */
  ratio?: number;
  agent?: string;
  cores?: number;
  reducedMotion?: boolean;
  /** Names of what was there at the start; never what they hold. */
  cookies?: string[];
  local?: string[];
  session?: string[];
}

/** How much was asked of the machine: runnable processes to a core, over the last minute, at the start and at the end. */
export interface MachineLoad {
  from: number;
  until: number;
  cores: number;
}

export interface PageData {
  address?: string;
  title?: string;
  context?: string;
  label?: string;
  text?: string;
  x?: number;
  y?: number;
  count?: number;
  value?: number;
  box?: Box;
  /** Of a press in a frame: where the corner of its document is in the window; null when it cannot be known. */
  offset?: { x: number; y: number } | null;
  /** Of a structure: the document written out, masked, as a blob. */
  blob?: string;
  circumstances?: Circumstances;
  load?: MachineLoad;
}

export interface NoteData {
  label: string;
  ok?: boolean;
  expected?: string;
  actual?: string;
  source?: string;
}

/** What a service did, told by itself: a span of a distributed trace. */
export interface SpanData {
  label: string;
  /** Name of the service. */
  service?: string;
  /** By the standard of trace contexts: 32 and 16 hexadecimal digits. */
  trace: string;
  span: string;
  /** The span that had it done: of the browser's request, or of another service. */
  parent?: string;
  /** False where it failed. */
  ok?: boolean;
}

interface Base<L extends Lane, K extends string, D> {
  id: string;
  lane: L;
  kind: K;
  at: number;
  until?: number;
  /** Which clock the time came from: `recorder`, `page`, `browser`, or an imported source's name. */
  clock: string;
  data: D;
}

export type StepEvent = Base<'step', 'command' | 'wait' | 'pause', StepData>;
export type PollEvent = Base<'poll', 'poll', PollData>;
export type ElementEvent = Base<'element', ElementKind, ElementData>;
export type NetworkEvent = Base<'network', 'exchange', NetworkData>;
export type BodyEvent = Base<'body', 'body', BodyData>;
export type ConsoleEvent = Base<'console', 'line' | 'exception', ConsoleData>;
export type ScreenEvent = Base<'screen', 'frame' | 'screenshot' | 'video', ScreenData>;
export type WindowEvent = Base<
  'window',
  'opened' | 'closed' | 'looked-at' | 'dialog-opened' | 'dialog-closed',
  WindowData
>;
export type PageEvent = Base<
  'page',
  | 'navigation-started'
  | 'navigation-committed'
  | 'dom-ready'
  | 'loaded'
  | 'fragment'
  | 'title'
  | 'mutations'
  | 'layout-shift'
  | 'focus'
  | 'held-value'
  | 'press'
  | 'structure'
  | 'circumstances'
  | 'machine',
  PageData
>;
export type ServiceEvent = Base<'service', 'span', SpanData>;
export type NoteEvent = Base<'note', 'note' | 'step' | 'check' | 'recorder', NoteData>;

export type EvidenceEvent =
  | StepEvent
  | PollEvent
  | ElementEvent
  | NetworkEvent
  | BodyEvent
  | ConsoleEvent
  | ScreenEvent
  | WindowEvent
  | PageEvent
  | NoteEvent
  | ServiceEvent;

export type EventOf<L extends Lane> = Extract<EvidenceEvent, { lane: L }>;

/** The events of one lane, in time order, typed. */
export function eventsOf<L extends Lane>(events: readonly EvidenceEvent[], lane: L): EventOf<L>[] {
  return events.filter((event): event is EventOf<L> => event.lane === lane).sort((a, b) => a.at - b.at);
}

/** End of an event: `until`, or its start when it is a moment. */
export const endOf = (event: { at: number; until?: number }): number => event.until ?? event.at;
