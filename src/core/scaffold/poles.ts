import {
  endOf,
  eventsOf,
  type ConsoleEvent,
  type EvidenceEvent,
  type NetworkEvent,
  type PageEvent,
  type PollEvent,
  type ScreenEvent,
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
  pauses: StepEvent[];
  polls: PollEvent[];
  lifelines: Lifeline[];
  network: NetworkEvent[];
  console: ConsoleEvent[];
  page: PageEvent[];
  window: WindowEvent[];
  /** Pictures of moments, in time order. */
  screens: ScreenEvent[];
  videos: ScreenEvent[];
  until: number;
}

/** Room each kind of label asks for below its start, pixels. */
export const room = { plank: 38, line: 17, request: 15, poll: 14 } as const;

/** Sorts the events onto poles; `failing` is the locator whose lifeline stands first. */
export function polesOf(events: readonly EvidenceEvent[], failing?: string): Poles {
  const steps = eventsOf(events, 'step');
  const waits = steps.filter((step) => step.kind === 'wait' && step.data.command === 'wait');
  const inside = (step: StepEvent): boolean =>
    step.kind === 'command' &&
    asking.has(step.data.action) &&
    waits.some((wait) => step.at >= wait.at && endOf(step) <= endOf(wait) && sameSubject(step, wait));
  const until = events.reduce((latest, event) => Math.max(latest, endOf(event)), 0);
  const lifelines = lifelinesOf(eventsOf(events, 'element'), until);
  return {
    planks: steps.filter((step) => step.kind !== 'pause' && step.data.command !== 'implicit wait' && !inside(step)),
    pauses: steps.filter((step) => step.kind === 'pause'),
    polls: eventsOf(events, 'poll'),
    lifelines: lifelines.sort((a, b) => interest(b, failing) - interest(a, failing)),
    network: eventsOf(events, 'network'),
    console: eventsOf(events, 'console'),
    page: eventsOf(events, 'page'),
    window: eventsOf(events, 'window'),
    screens: eventsOf(events, 'screen').filter((screen) => screen.kind !== 'video'),
    videos: eventsOf(events, 'screen').filter((screen) => screen.kind === 'video'),
    until,
  };
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
        .map((s) => ({ at: s.from, needs: 4, lane: `line ${line.locator}` })),
    ),
    ...poles.page.filter((e) => e.kind !== 'mutations').map(mark('', 0)),
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
  address?: string;
}

/** A picture no further off than this shows the moment. */
const freshMs = 60;

/** How near a console line has to be to be shown with a moment. */
const nearMs = 120;

export function atLevel(poles: Poles, at: number): AtLevel {
  const last = <T extends { at: number }>(list: readonly T[]): T | undefined =>
    list.findLast((event) => event.at <= at);
  const address = poles.page.findLast(
    (e) =>
      e.at <= at &&
      e.data.address !== undefined &&
      (e.kind === 'navigation-committed' || e.kind === 'loaded' || e.kind === 'fragment'),
  );
  const video = poles.videos.find((one) => one.at <= at && endOf(one) >= at);
  const screens = poles.screens.filter((screen) => screen.kind === 'frame');
  const pictures = screens.length ? screens : poles.screens;
  const before = pictures.findLastIndex((screen) => screen.at <= at);
  const next = pictures[before + 1];
  // What the screen showed is the picture before; one right after is nearer the truth than an old one.
  const nearer = before >= 0 && next !== undefined && next.at - at < freshMs && at - pictures[before]!.at > freshMs;
  const index = before < 0 ? 0 : nearer ? before + 1 : before;
  const event = pictures[index];
  return {
    step: last(poles.planks),
    inFlight: poles.network.filter((request) => request.at <= at && endOf(request) >= at),
    console: poles.console.filter((line) => Math.abs(line.at - at) <= nearMs),
    ...(video ? { video: { event: video, time: at - video.at } } : {}),
    ...(event ? { screen: { event, index, count: pictures.length, offMs: event.at - at } } : {}),
    held: last(poles.page.filter((e) => e.kind === 'held-value')),
    address: address?.data.address,
  };
}
