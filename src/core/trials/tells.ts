import type { CauseCode } from '../causes/cause.ts';
import type { Stressor, StressorKind } from './stressor.ts';

/** What it tells of a cause that a failure comes, or does not come, under a kind of stressor. */
export const bearings = ['time', 'service', 'outside', 'machine', 'size', 'clock', 'data', 'state', 'answer'] as const;
export type Bearing = (typeof bearings)[number];
/** Those that the failure would have come by, had it one of their causes: nothing else leads to these. */
export const lonely = ['outside', 'machine', 'size', 'clock', 'data', 'state'] as const;

/** What a stressor acts on. Those that act on several things at once tell of the first. */
const acts: Record<StressorKind, Bearing> = {
  hold: 'time',
  'hold-until': 'time',
  'late-body': 'time',
  fail: 'service',
  answer: 'answer',
  'slow-line': 'time',
  outside: 'outside',
  'slow-processor': 'machine',
  timers: 'time',
  pace: 'time',
  jitter: 'time',
  'late-step': 'time',
  window: 'size',
  'pixel-ratio': 'size',
  zone: 'clock',
  locale: 'clock',
  clock: 'clock',
  random: 'data',
  data: 'data',
  animations: 'time',
  'reduced-motion': 'time',
  'cold-cache': 'time',
  'drill-before': 'state',
  beside: 'machine',
  background: 'time',
};

export const bearingOf = ({ kind }: Stressor): Bearing => acts[kind];

/** The causes that something which brings a failure on demand speaks for. */
export const spokenFor: Record<Bearing, readonly CauseCode[]> = {
  time: [
    'early-action',
    'early-check',
    'slow-response',
    'navigation-race',
    'moving-target',
    'replaced-element',
    'covered-target',
    'lost-input',
    'empty-check',
    'loose-locator',
    'missing-step',
    'wrong-window',
    'unexpected-dialog',
    'script-error',
  ],
  service: ['service-error', 'script-error', 'unexpected-dialog'],
  outside: ['third-party-outage'],
  machine: ['starved-machine', 'early-action', 'early-check', 'slow-response'],
  size: ['layout-variant', 'covered-target', 'brittle-locator'],
  clock: ['clock-dependent', 'engine-difference'],
  data: ['random-data', 'brittle-locator'],
  state: ['shared-state'],
  answer: [
    'loose-locator',
    'brittle-locator',
    'empty-check',
    'missing-step',
    'random-data',
    'shared-state',
    'unexpected-dialog',
    'wrong-result',
    'script-error',
    'service-error',
  ],
};

/** What speaks against a cause when acting on it brings nothing. */
export const spokenAgainst: Record<(typeof lonely)[number], CauseCode> = {
  outside: 'third-party-outage',
  machine: 'starved-machine',
  size: 'layout-variant',
  clock: 'clock-dependent',
  data: 'random-data',
  state: 'shared-state',
};

/** Whether a cause is one of those that what provokes a failure speaks for. */
export const agrees = (cause: CauseCode, stressors: readonly Stressor[]): boolean =>
  stressors.length === 0 || stressors.some((one) => spokenFor[bearingOf(one)].includes(cause));
