import type { CauseCode } from '../causes/cause.ts';
import type { Drill } from '../drill/drill.ts';
import { printStatement } from '../drill/print.ts';
import { duration, shorten } from '../evidence/labels.ts';
import type { Arm } from './search.ts';
import { stepsOf } from './stressed-drill.ts';
import { atDose, dataShapes, kindsOfStressor, stressKey, type Stressor, type StressorKind } from './stressor.ts';

/** A request that attempts of the test made. */
export interface KnownRequest {
  /** `GET /api/fare`. */
  key: string;
  own: boolean;
  /** What kind of thing asked: `fetch`, `document`, `script` … */
  type: string;
}

/** What is known before anything is tried. */
export interface Grounds {
  drill: Drill;
  /** Ranked; each with the requests that its clues rest on. */
  suspects: readonly { cause: CauseCode; name: string; probability: number; requests: readonly string[] }[];
  /** What the failing step's target waits for, nearest first. */
  sources: readonly string[];
  requests: readonly KnownRequest[];
  /** Requests that took much longer in the attempt that failed than in those that passed, the nearest to its end first. */
  slowed?: readonly { key: string; took: number; usually: number }[];
  /** Requests whose answer held something else in the attempt that failed than in those that passed, the likeliest first. */
  answers?: readonly {
    key: string;
    attempt: string;
    exchange: string;
    from: number;
    /** No passing attempt got it · few of them did · theirs differ from visit to visit. */
    how: 'new' | 'rare' | 'varies';
  }[];
  /** Window in which it failed. */
  window?: { width: number; height: number };
  /** Epoch ms, for edges of the calendar. */
  now: number;
  /** Whether the place can do it. */
  can: (stressor: Stressor) => boolean;
  allow?: readonly StressorKind[];
  forbid?: readonly StressorKind[];
}

/** `exact`: at the dose it has, whatever its ladder. */
type Draft = { stressor: Stressor; why: string; prior: number; exact?: boolean; with?: Stressor };

/** Each further dose of an arm is worth this share of the one before. */
const nextDose = 0.5;
/** More arms than these would not be reached. */
const mostArms = 80;

/** What may provoke the failure, the likeliest first: what suspects and sources suggest, then the general. */
export function armsFor(grounds: Grounds): Arm[] {
  const { can, allow, forbid } = grounds;
  const drafts = [
    ...fromSources(grounds),
    ...fromSlowed(grounds),
    ...fromAnswers(grounds),
    ...fromSuspects(grounds),
    ...general(grounds),
  ]
    .filter(({ stressor }) => !allow || allow.includes(stressor.kind))
    .filter(({ stressor }) => !forbid?.includes(stressor.kind) && can(stressor))
    .flatMap(withDoses);
  const best = new Map<string, Draft>();
  for (const draft of drafts) {
    const key = stressKey(setOf(draft));
    const before = best.get(key);
    if (!before || before.prior < draft.prior) best.set(key, draft);
  }
  return [...best.values()]
    .sort((a, b) => b.prior - a.prior)
    .slice(0, mostArms)
    .map((draft) => ({ stressors: setOf(draft), why: draft.why, prior: Math.min(1, draft.prior) }));
}

const setOf = ({ stressor, with: other }: Draft): Stressor[] => (other ? [stressor, other] : [stressor]);

function withDoses(draft: Draft): Draft[] {
  const dose = kindsOfStressor[draft.stressor.kind].dose;
  if (!dose || draft.exact) return [draft];
  return dose.ladder.map((one, i) => ({
    ...draft,
    stressor: atDose(draft.stressor, one),
    prior: draft.prior * nextDose ** i,
  }));
}

const hold = (request: string): Stressor => ({ kind: 'hold', request, ms: 0 });

function fromSources({ sources }: Grounds): Draft[] {
  return sources.map((key, i) => ({
    stressor: hold(key),
    why: `the failing step’s target waits for ${key}`,
    prior: 0.8 * 0.75 ** i,
  }));
}

/** What came late where it failed may be what makes it fail, whatever is suspected. */
function fromSlowed({ slowed = [] }: Grounds): Draft[] {
  return slowed.map(({ key, took, usually }, i) => ({
    stressor: hold(key),
    why: `${key} took ${duration(took)} in the attempt that failed, ${duration(usually)} at most in those that passed`,
    prior: 0.6 * 0.75 ** i,
  }));
}

/** How an answer differs, and how likely it is then what makes it fail. */
const answeredOtherwise = {
  new: { words: 'answered something else in the attempt that failed than in those that passed', prior: 0.5 },
  rare: { words: 'answered in the attempt that failed what it answered in few of those that passed', prior: 0.4 },
  // A page given again may but repeat what came of it, so it is tried late.
  varies: { words: 'answers something else in every attempt; so it did in the one that failed', prior: 0.12 },
} as const;

/** What was answered may be what makes it fail, whenever it comes. */
function fromAnswers({ answers = [], slowed = [] }: Grounds): Draft[] {
  return answers.flatMap(({ key, attempt, exchange, from, how }, i): Draft[] => {
    const stressor: Stressor = { kind: 'answer', request: key, attempt, exchange, ...(from > 1 ? { from } : {}) };
    const why = `${key} ${answeredOtherwise[how].words}`;
    const prior = answeredOtherwise[how].prior * 0.75 ** i;
    const late = slowed.find((one) => one.key === key);
    if (!late) return [{ stressor, why, prior }];
    // It may take both: what it held, and when it came.
    const held: Stressor = { kind: 'hold', request: key, ms: Math.round(late.took) };
    return [
      { stressor, why, prior },
      { stressor, with: held, why: `${why}, ${duration(late.took)} after it was asked for`, prior: prior * 0.9 },
    ];
  });
}

/** Causes for whom something comes too late, or the test too early. */
const late: ReadonlySet<CauseCode> = new Set<CauseCode>([
  'early-action',
  'early-check',
  'navigation-race',
  'moving-target',
  'slow-response',
  'replaced-element',
  'loose-locator',
  'covered-target',
  'wrong-window',
  'unexpected-dialog',
  'lost-input',
  'missing-step',
  'empty-check',
  'starved-machine',
]);

function fromSuspects(grounds: Grounds): Draft[] {
  return grounds.suspects.flatMap(({ cause, name, probability, requests }) =>
    suggestedBy(cause, requests, grounds).map(({ stressor, weight, exact }) => ({
      stressor,
      ...(exact ? { exact } : {}),
      why: `“${name}” is suspected${'request' in stressor ? `, and its evidence names ${stressor.request}` : ''}`,
      prior: probability * weight,
    })),
  );
}

function suggestedBy(
  cause: CauseCode,
  requests: readonly string[],
  grounds: Grounds,
): { stressor: Stressor; weight: number; exact?: boolean }[] {
  const out: { stressor: Stressor; weight: number; exact?: boolean }[] = [];
  const add = (weight: number, ...stressors: Stressor[]): void => {
    for (const stressor of stressors) out.push({ stressor, weight });
  };
  if (late.has(cause)) {
    add(0.9, ...requests.map(hold));
    add(0.45, { kind: 'timers', factor: 1 }, { kind: 'pace', factor: 1 });
    add(0.35, ...lateSteps(grounds, 2).map(({ stressor }) => stressor));
    add(0.3, { kind: 'slow-processor', factor: 1 });
  }
  switch (cause) {
    case 'replaced-element':
      // What replaces it may come whenever it likes: the longer it is held, the surer it has.
      for (const { stressor } of lateSteps(grounds, 1))
        out.push({ stressor: atDose(stressor, heldLongMs), weight: 0.42, exact: true });
      break;
    case 'navigation-race':
      add(0.8, ...documents(grounds).map(hold));
      break;
    case 'moving-target':
    case 'covered-target':
      add(0.5, { kind: 'animations', factor: 1 });
      break;
    case 'service-error':
      for (const request of requests)
        add(0.9, { kind: 'fail', request, how: 'status', status: 503 }, { kind: 'fail', request, how: 'cut' });
      break;
    case 'third-party-outage':
      add(0.9, { kind: 'outside', how: 'blocked' });
      for (const request of requests) add(0.8, { kind: 'fail', request, how: 'status', status: 503 });
      add(0.6, { kind: 'outside', how: 'slow' });
      break;
    case 'script-error':
    case 'brittle-locator':
      add(0.4, ...[1, 2, 3].map((seed): Stressor => ({ kind: 'random', seed })));
      for (const request of requests) add(0.5, { kind: 'fail', request, how: 'status', status: 503 });
      add(0.3, ...requests.map(hold));
      break;
    case 'clock-dependent':
      add(0.7, ...edges(grounds.now), ...zones);
      break;
    case 'layout-variant':
      add(0.7, ...sizes(grounds));
      add(0.3, { kind: 'pixel-ratio', ratio: 2 });
      break;
    case 'random-data':
      add(0.7, ...dataShapes.map((shape): Stressor => ({ kind: 'data', shape })));
      break;
    case 'shared-state':
      add(0.8, { kind: 'drill-before' }, { kind: 'beside', copies: 1 });
      break;
    case 'starved-machine':
      add(0.8, { kind: 'slow-processor', factor: 1 });
      add(0.5, { kind: 'beside', copies: 2 }, { kind: 'slow-line', ms: 0 });
      break;
  }
  return out;
}

/** Longer than most pages leave anything as it is, ms. */
const heldLongMs = 10_000;

/** The steps before the end of the drill, the last first: the failing one is the last. */
function lateSteps({ drill }: Grounds, most: number): { stressor: Stressor; words: string }[] {
  const steps = stepsOf(drill);
  return steps
    .map((line, i) => ({
      stressor: { kind: 'late-step', step: i + 1, ms: 0 } as Stressor,
      words: shorten(printStatement(line), 50),
    }))
    .slice(1)
    .slice(-most)
    .reverse();
}

const documents = ({ requests }: Grounds): string[] =>
  requests.filter(({ own, type }) => own && type === 'document').map(({ key }) => key);

const zones: Stressor[] = ['Pacific/Kiritimati', 'Pacific/Pago_Pago', 'Asia/Kathmandu'].map((zone) => ({
  kind: 'zone',
  zone,
}));

const dayMs = 86_400_000;

/** Moments that calendars stumble over: just before midnight, the end of a month, the end of a year, a leap day. */
function edges(now: number): Stressor[] {
  const day = new Date(now);
  const at = (year: number, month: number, date: number): number => Date.UTC(year, month, date) - 60_000 - now;
  const [year, month] = [day.getUTCFullYear(), day.getUTCMonth()];
  const leap = year + ((4 - (year % 4)) % 4);
  return [
    at(year, month, day.getUTCDate() + 1),
    at(year, month + 1, 1),
    at(year + 1, 0, 1),
    at(leap, 2, 1),
    7 * dayMs,
    365 * dayMs,
  ].map((shiftMs) => ({ kind: 'clock', shiftMs }));
}

function sizes({ window }: Grounds): Stressor[] {
  const usual = [
    { width: 1024, height: 768 },
    { width: 800, height: 600 },
    { width: 390, height: 844 },
    { width: 1920, height: 1080 },
  ];
  return [...(window ? [window] : []), ...usual].map((size) => ({ kind: 'window', ...size }));
}

/** What is worth a look with any failure. */
function general(grounds: Grounds): Draft[] {
  const asked = (one: KnownRequest): boolean => one.own && (one.type === 'fetch' || one.type === 'xhr');
  const drafts: Draft[] = [];
  const add = (prior: number, why: string, ...stressors: Stressor[]): void => {
    for (const stressor of stressors) drafts.push({ stressor, why, prior });
  };
  for (const request of grounds.requests)
    if (request.own)
      add(
        asked(request) ? 0.14 : request.type === 'document' ? 0.07 : request.type === 'script' ? 0.08 : 0.02,
        `${request.key} was asked for`,
        hold(request.key),
      );
  for (const { key } of grounds.requests.filter(asked))
    add(0.05, `${key} was asked for`, { kind: 'fail', request: key, how: 'status', status: 503 });
  add(0.13, 'everything may be late', { kind: 'slow-line', ms: 0 });
  add(0.12, 'the page may use timers', { kind: 'timers', factor: 1 });
  add(0.12, 'the test may be too fast, or too slow', { kind: 'pace', factor: 1 });
  add(0.1, 'the machine may be slow', { kind: 'slow-processor', factor: 1 });
  for (const { stressor, words } of lateSteps(grounds, 5)) add(0.08, `“${words}” may come too late`, stressor);
  add(0.05, 'something may be left from before', { kind: 'drill-before' });
  if (grounds.requests.some(({ own }) => !own))
    add(0.06, 'outside hosts are asked', { kind: 'outside', how: 'blocked' });
  add(0.04, 'the layout may differ', ...sizes(grounds).slice(0, 2));
  add(0.04, 'the page may depend on where it is', ...zones.slice(0, 2));
  add(0.04, 'what is typed may matter', { kind: 'data', shape: 'apostrophe' }, { kind: 'data', shape: 'plus' });
  add(0.03, 'the page may draw numbers', { kind: 'random', seed: 1 }, { kind: 'random', seed: 2 });
  add(0.03, 'animations may be in the way', { kind: 'animations', factor: 1 });
  return drafts;
}
