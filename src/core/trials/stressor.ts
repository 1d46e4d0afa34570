/**
 * What a trial can be put under. Each kind says what it is, in which unit its dose is counted, which doses are worth
 * trying, and what it needs of the place it is played in. A stressor without a dose is on or off.
 */
export type Stressor =
  /** Requests are sent so much later, so that their answers come so much later. */
  | { kind: 'hold'; request: string; ms: number }
  /** Requests wait until another has been answered. */
  | { kind: 'hold-until'; request: string; until: string }
  /** The answer's head comes as ever; whoever reads its body gets it so much later. */
  | { kind: 'late-body'; request: string; ms: number }
  /** `cut`: the connection breaks; `never`: no answer comes. */
  | { kind: 'fail'; request: string; how: 'status' | 'cut' | 'never'; status?: number }
  /** Every answer is the one that an attempt got: its exchange, by id; those before the `from`-th, from 1, are what they are. */
  | { kind: 'answer'; request: string; attempt: string; exchange: string; from?: number }
  | { kind: 'slow-line'; ms: number }
  | { kind: 'outside'; how: 'blocked' | 'slow'; ms?: number }
  | { kind: 'slow-processor'; factor: number }
  /** Delays of the page's own timers. */
  | { kind: 'timers'; factor: number }
  /** Pauses of the drill. 0 plays it as fast as it goes. */
  | { kind: 'pace'; factor: number }
  | { kind: 'jitter'; ms: number }
  /** One statement, counted from 1 among those of the drill, comes so much later. */
  | { kind: 'late-step'; step: number; ms: number }
  | { kind: 'window'; width: number; height: number }
  | { kind: 'pixel-ratio'; ratio: number }
  | { kind: 'zone'; zone: string }
  | { kind: 'locale'; locale: string }
  /** The page's clock: shifted by so much, or shifted and standing still. */
  | { kind: 'clock'; shiftMs: number; standing?: boolean }
  | { kind: 'random'; seed: number }
  /** What is typed is replaced by data of another shape. */
  | { kind: 'data'; shape: DataShape }
  | { kind: 'animations'; factor: number }
  | { kind: 'reduced-motion' }
  | { kind: 'cold-cache' }
  /** Another drill is played before, in the same context: what it leaves is there. Without a name, the drill itself. */
  | { kind: 'drill-before'; drill?: string }
  /** Copies of the drill are played at the same time in a browser of their own. */
  | { kind: 'beside'; copies: number }
  | { kind: 'background' };

export const dataShapes = ['apostrophe', 'plus', 'long', 'other script', 'markup'] as const;
export type DataShape = (typeof dataShapes)[number];
export type StressorKind = Stressor['kind'];

/** What a kind needs of a place: nothing, its socket, that requests can be held, the browser's own debugging commands. */
export type Need = 'nothing' | 'socket' | 'holds' | 'debugging';

export interface KindOfStressor {
  about: string;
  needs: Need;
  /** The field that holds the dose, its unit, and the doses worth trying, the likeliest first. */
  dose?: { field: string; unit: string; ladder: readonly number[]; none: number };
}

export const kindsOfStressor: Record<StressorKind, KindOfStressor> = {
  hold: {
    about: 'holds back the answers to a request',
    needs: 'holds',
    dose: { field: 'ms', unit: 'ms', ladder: [1200, 400, 3000], none: 0 },
  },
  'hold-until': { about: 'holds back the answers to a request until another has been answered', needs: 'holds' },
  'late-body': {
    about: 'holds back the bodies of the answers to a request, not their heads',
    needs: 'socket',
    dose: { field: 'ms', unit: 'ms', ladder: [1200, 400, 3000], none: 0 },
  },
  fail: { about: 'fails a request', needs: 'holds' },
  answer: { about: 'gives a request the answer that an attempt got', needs: 'holds' },
  'slow-line': {
    about: 'holds back every answer',
    needs: 'holds',
    dose: { field: 'ms', unit: 'ms', ladder: [400, 1500], none: 0 },
  },
  outside: { about: 'blocks or slows hosts that are not the application’s own', needs: 'holds' },
  'slow-processor': {
    about: 'slows the processor down',
    needs: 'debugging',
    dose: { field: 'factor', unit: '×', ladder: [6, 20], none: 1 },
  },
  timers: {
    about: 'stretches the page’s own timers',
    needs: 'socket',
    dose: { field: 'factor', unit: '×', ladder: [4, 0.1, 12], none: 1 },
  },
  pace: {
    about: 'stretches or leaves out the pauses between steps',
    needs: 'nothing',
    dose: { field: 'factor', unit: '×', ladder: [0, 4], none: 1 },
  },
  jitter: {
    about: 'lets each step come a different moment later',
    needs: 'nothing',
    dose: { field: 'ms', unit: 'ms', ladder: [400], none: 0 },
  },
  'late-step': {
    about: 'lets one step come later',
    needs: 'nothing',
    dose: { field: 'ms', unit: 'ms', ladder: [600, 200, 2000, 10_000], none: 0 },
  },
  window: { about: 'sets the size of the window', needs: 'nothing' },
  'pixel-ratio': { about: 'sets the pixels of the screen to those of the page', needs: 'socket' },
  zone: { about: 'sets the time zone', needs: 'socket' },
  locale: { about: 'sets the locale', needs: 'socket' },
  clock: { about: 'shifts the page’s clock', needs: 'socket' },
  random: { about: 'sets the page’s random numbers', needs: 'socket' },
  data: { about: 'types data of another shape', needs: 'nothing' },
  animations: {
    about: 'slows animations down, or leaves them out at 0',
    needs: 'debugging',
    dose: { field: 'factor', unit: '×', ladder: [8, 0], none: 1 },
  },
  'reduced-motion': { about: 'asks the page for less motion', needs: 'debugging' },
  'cold-cache': { about: 'asks for everything anew', needs: 'socket' },
  'drill-before': { about: 'plays a drill before, in the same context', needs: 'nothing' },
  beside: { about: 'plays copies of the drill at the same time', needs: 'nothing' },
  background: { about: 'leaves the tab in the background', needs: 'socket' },
};

/** @returns the dose of a stressor, undefined where it has none */
export function doseOf(stressor: Stressor): number | undefined {
  const field = kindsOfStressor[stressor.kind].dose?.field;
  return field === undefined ? undefined : (stressor as unknown as Record<string, number>)[field];
}

/** The same stressor at another dose. @throws RangeError where the kind has none */
export function atDose(stressor: Stressor, dose: number): Stressor {
  const field = kindsOfStressor[stressor.kind].dose?.field;
  if (field === undefined) throw new RangeError(`${stressor.kind} has no dose`);
  return { ...stressor, [field]: dose };
}

/** Equal keys put a trial under the same thing, whatever the order. */
export const stressKey = (stressors: readonly Stressor[]): string =>
  stressors
    .map((one) => JSON.stringify(one, Object.keys(one).sort()))
    .sort()
    .join(' ');

/** Equal keys are the same thing, at any dose. */
export const keyAtAnyDose = (stressors: readonly Stressor[]): string =>
  stressKey(stressors.map((one) => (doseOf(one) === undefined ? one : atDose(one, 0))));

/** One stressor in words, after “when”: “GET /api/fare answers 400 ms later”. */
export function words(stressor: Stressor): string {
  switch (stressor.kind) {
    case 'hold':
      return `${stressor.request} answers ${time(stressor.ms)} later`;
    case 'hold-until':
      return `${stressor.request} answers only after ${stressor.until} has`;
    case 'late-body':
      return `the body of ${stressor.request} comes ${time(stressor.ms)} after its head`;
    case 'fail':
      return `${stressor.request} ${stressor.how === 'status' ? `answers ${stressor.status ?? 503}` : stressor.how === 'cut' ? 'breaks off' : 'is never answered'}`;
    case 'answer':
      return `${stressor.request} answers what it answered in attempt ${stressor.attempt}${(stressor.from ?? 1) > 1 ? `, from its answer ${stressor.from} on` : ''}`;
    case 'slow-line':
      return `every answer comes ${time(stressor.ms)} later`;
    case 'outside':
      return stressor.how === 'blocked'
        ? 'outside hosts cannot be reached'
        : `outside hosts answer ${time(stressor.ms ?? slowOutsideMs)} later`;
    case 'slow-processor':
      return `the processor is ${stressor.factor} times slower`;
    case 'timers':
      return `the page’s timers take ${rounded(stressor.factor)} times as long`;
    case 'pace':
      return stressor.factor === 0
        ? 'the steps follow each other without a pause'
        : `the pauses between steps are ${rounded(stressor.factor)} times as long`;
    case 'jitter':
      return `each step comes up to ${time(stressor.ms)} later`;
    case 'late-step':
      return `step ${stressor.step} comes ${time(stressor.ms)} later`;
    case 'window':
      return `the window is ${stressor.width} × ${stressor.height}`;
    case 'pixel-ratio':
      return `the screen has ${rounded(stressor.ratio)} pixels to each of the page’s`;
    case 'zone':
      return `the time zone is ${stressor.zone}`;
    case 'locale':
      return `the locale is ${stressor.locale}`;
    case 'clock':
      return `the page’s clock is ${span(stressor.shiftMs)}${stressor.standing ? ' and stands still' : ''}`;
    case 'random':
      return `the page’s random numbers begin at ${stressor.seed}`;
    case 'data':
      return `what is typed ${shapeWords[stressor.shape]}`;
    case 'animations':
      return stressor.factor === 0 ? 'nothing is animated' : `animations are ${rounded(stressor.factor)} times slower`;
    case 'reduced-motion':
      return 'less motion is asked for';
    case 'cold-cache':
      return 'nothing comes from the cache';
    case 'drill-before':
      return stressor.drill ? `drill ${stressor.drill} was played before` : 'the drill was played once before';
    case 'beside':
      return `${stressor.copies} ${stressor.copies === 1 ? 'copy is' : 'copies are'} played at the same time`;
    case 'background':
      return 'the tab is in the background';
  }
}

/** So long outside hosts take when they are slow and nothing else is said, ms. */
export const slowOutsideMs = 3000;

const shapeWords: Record<DataShape, string> = {
  apostrophe: 'holds an apostrophe',
  plus: 'holds a plus',
  long: 'is very long',
  'other script': 'is in another script',
  markup: 'holds markup',
};

/** All of them in words. */
export const allWords = (stressors: readonly Stressor[]): string =>
  stressors.length ? stressors.map(words).join(' and ') : 'as it is';

const rounded = (n: number): string => String(Math.round(n * 100) / 100);
const time = (ms: number): string => (ms < 1000 ? `${Math.round(ms)} ms` : `${rounded(ms / 1000)} s`);

function span(ms: number): string {
  const way = ms < 0 ? 'behind' : 'ahead';
  const minutes = Math.round(Math.abs(ms) / 60_000);
  if (minutes < 120) return `${minutes} min ${way}`;
  return minutes < 48 * 60 ? `${rounded(minutes / 60)} h ${way}` : `${rounded(minutes / 1440)} days ${way}`;
}
