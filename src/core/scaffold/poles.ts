import {
  arrivedAt,
  endOf,
  eventsOf,
  type ConsoleEvent,
  type EvidenceEvent,
  type NetworkEvent,
  type NoteEvent,
  type PageEvent,
  type PollEvent,
  type ScreenEvent,
  type ServiceEvent,
  type StepEvent,
  type WindowEvent,
} from '../evidence/event.ts';
import { lifelinesOf, type Lifeline } from '../evidence/lifelines.ts';
import { locatorKey } from '../evidence/locator.ts';
import { asking } from '../evidence/waits.ts';
import type { ElasticMark } from './elastic.ts';

/** The events of an attempt, sorted onto the poles of its scaffold. */
export interface Poles {
  /** Planks: steps and waits, without the tries inside waits. */
  planks: StepEvent[];
  /** How deep a plank stands inside others, by id; absent for those that stand by themselves. */
  depth: ReadonlyMap<string, number>;
  pauses: StepEvent[];
  polls: PollEvent[];
  lifelines: Lifeline[];
  network: NetworkEvent[];
  console: ConsoleEvent[];
  page: PageEvent[];
  window: WindowEvent[];
  notes: NoteEvent[];
  services: ServiceEvent[];
  /** Pictures of moments, in time order. */
  screens: ScreenEvent[];
  videos: ScreenEvent[];
  until: number;
}

/** Room each kind of label asks for below its start, pixels. */
export const room = { plank: 38, line: 17, request: 15, poll: 14, change: 4 } as const;

/**
 * Sorts the events onto poles.
 * @param failing the locator whose lifeline stands first
 * @param end when the attempt ended, ms, where that is later than what the events tell
 */
export function polesOf(events: readonly EvidenceEvent[], failing?: string, end = 0): Poles {
  const steps = eventsOf(events, 'step');
  const waits = steps.filter((step) => step.kind === 'wait' && step.data.command === 'wait');
  const inside = (step: StepEvent): boolean =>
    step.kind === 'command' &&
    asking.has(step.data.action) &&
    waits.some((wait) => step.at >= wait.at && endOf(step) <= endOf(wait) && sameSubject(step, wait));
  const until = events.reduce((latest, event) => Math.max(latest, endOf(event)), end);
  const lifelines = lifelinesOf(eventsOf(events, 'element'), until);
  const planks = steps.filter(
    (step) => step.kind !== 'pause' && step.data.command !== 'implicit wait' && !inside(step),
  );
  return {
    planks,
    depth: depthsOf(planks),
    pauses: steps.filter((step) => step.kind === 'pause'),
    polls: eventsOf(events, 'poll'),
    lifelines: lifelines.sort((a, b) => interest(b, failing) - interest(a, failing)),
    network: eventsOf(events, 'network'),
    console: eventsOf(events, 'console'),
    page: eventsOf(events, 'page'),
    window: eventsOf(events, 'window'),
    services: eventsOf(events, 'service'),
    notes: eventsOf(events, 'note').filter((note) => note.kind !== 'recorder'),
    screens: eventsOf(events, 'screen').filter((screen) => screen.kind !== 'video'),
    videos: eventsOf(events, 'screen').filter((screen) => screen.kind === 'video'),
    until,
  };
}

/**
 * How deep each step stands inside others: by the parent its source names, else by its time lying
 * within another's. Steps of one time, or that only touch, stand beside each other.
 */
function depthsOf(planks: readonly StepEvent[]): Map<string, number> {
  const depth = new Map<string, number>();
  const open: StepEvent[] = [];
  for (const plank of planks) {
    while (open.length && endOf(open.at(-1)!) <= plank.at) open.pop();
    const told = typeof plank.data.parent === 'string' ? depth.get(plank.data.parent) : undefined;
    const parents = open.filter((one) => endOf(one) >= endOf(plank) && endOf(one) - one.at > endOf(plank) - plank.at);
    const deep = plank.data.parent === undefined ? parents.length : (told ?? 0) + 1;
    depth.set(plank.id, deep);
    open.push(plank);
  }
  for (const [id, deep] of depth) if (deep === 0) depth.delete(id);
  return depth;
}

function sameSubject(step: StepEvent, wait: StepEvent): boolean {
  if (!wait.data.locator) return step.data.action === 'script' || !step.data.locator;
  return step.data.locator !== undefined && locatorKey(step.data.locator) === locatorKey(wait.data.locator);
}

/** The failing target first, then what was replaced or covered, then what changed most. */
function interest(line: Lifeline, failing: string | undefined): number {
  const telling = line.segments.filter(
    (s) => s.kind === 'replaced' || s.kind === 'covered' || s.kind === 'removed',
  ).length;
  return (line.locator === failing ? 1e6 : 0) + telling * 1000 + Math.min(line.segments.length, 900);
}

/** The times the scale has to give room to. */
export function marksOf(poles: Poles): ElasticMark[] {
  const { window: windows } = poles;
  const mark = (lane: string, needs: number) => (event: { at: number }) => ({ at: event.at, needs, lane });
  const ends = (events: readonly { at: number; until?: number }[]): ElasticMark[] =>
    events.filter((e) => e.until !== undefined).map((e) => ({ at: e.until!, needs: 0, lane: '' }));
  return [
    ...poles.planks.map(mark('step', room.plank)),
    ...ends(poles.planks),
    ...poles.console.map(mark('console', room.line)),
    ...poles.network.map(mark('network', room.request)),
    ...ends(poles.network),
    ...poles.polls.map(mark('poll', room.poll)),
    ...poles.lifelines.flatMap((line) =>
      line.segments
        .filter((s) => s.kind !== 'moved')
        .map((s) => ({ at: s.from, needs: room.change, lane: `line ${line.locator}` })),
    ),
    ...poles.page.filter((e) => e.kind !== 'mutations' && e.kind !== 'structure').map(mark('', 0)),
    ...windows.map(mark('window', room.line)),
    ...poles.notes.map(mark('note', room.line)),
    ...poles.services.map(mark('service', room.line)),
    ...ends(poles.services),
  ];
}

/** What was true at one instant, for the exhibit. */
export interface AtLevel {
  step?: StepEvent;
  inFlight: NetworkEvent[];
  console: ConsoleEvent[];
  /** The video on show and its own time, ms. */
  video?: { event: ScreenEvent; time: number };
  screen?: { event: ScreenEvent; index: number; count: number; offMs: number };
  held?: PageEvent;
  focus?: PageEvent;
  address?: string;
}

/** A picture no further off than this shows the moment. */
const freshMs = 60;

/** How near a console line has to be to be shown with a moment. */
const nearMs = 120;

/**
 * What was true at one instant.
 * @param context the window the test looked at, where several stood open: its pictures go first
 */
export function atLevel(poles: Poles, at: number, context?: string): AtLevel {
  const last = <T extends { at: number }>(list: readonly T[]): T | undefined =>
    list.findLast((event) => event.at <= at);
  const address = poles.page.findLast(
    (e) =>
      e.at <= at &&
      e.data.address !== undefined &&
      (e.kind === 'navigation-committed' || e.kind === 'loaded' || e.kind === 'fragment') &&
      (context === undefined || e.data.context === undefined || e.data.context === context),
  );
  const video = poles.videos.find((one) => one.at <= at && endOf(one) >= at);
  return {
    step: last(poles.planks),
    inFlight: poles.network.filter((request) => request.at <= at && arrivedAt(request) >= at),
    console: poles.console.filter((line) => Math.abs(line.at - at) <= nearMs),
    ...(video ? { video: { event: video, time: at - video.at } } : {}),
    screen: screenAt(poles.screens, at, context),
    held: last(poles.page.filter((e) => e.kind === 'held-value')),
    focus: last(poles.page.filter((e) => e.kind === 'focus')),
    address: address?.data.address ?? openedBefore(poles, at),
  };
}

/** Of a browser that tells nothing of its pages: what the test had opened last. */
function openedBefore(poles: Poles, at: number): string | undefined {
  if (poles.page.some(({ data }) => data.address !== undefined)) return undefined;
  return poles.planks.findLast((one) => one.data.action === 'open' && endOf(one) <= at)?.data.input;
}

/** The picture that shows a moment best: the last one before it, unless one right after is much nearer. */
function screenAt(all: readonly ScreenEvent[], at: number, context: string | undefined): AtLevel['screen'] {
  const whole = all.filter((screen) => !screen.data.part);
  const frames = whole.filter((screen) => screen.kind === 'frame');
  const own = (frames.length ? frames : whole).filter(
    ({ data }) => context === undefined || data.context === undefined || data.context === context,
  );
  const pictures = own.length ? own : frames.length ? frames : whole;
  const before = pictures.findLastIndex((screen) => screen.at <= at);
  const next = pictures[before + 1];
  // What the screen showed is the picture before; one right after is nearer the truth than an old one.
  const nearer = before >= 0 && next !== undefined && next.at - at < freshMs && at - pictures[before]!.at > freshMs;
  const index = before < 0 ? 0 : nearer ? before + 1 : before;
  const event = pictures[index];
  return event && { event, index, count: pictures.length, offMs: event.at - at };
}
