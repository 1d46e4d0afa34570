import type { Sketch, SketchStep } from './sketch.ts';

/** Small sketches for unit tests: everything that does not matter is filled in, and time runs on by itself. */

let count = 0;

export function step(sig: string, more: Partial<SketchStep> = {}): SketchStep {
  const [action, ...rest] = sig.split(' ');
  const locator = rest.at(-1);
  return {
    sig,
    action: (action ?? 'other') as SketchStep['action'],
    ...(locator ? { locator: `css=${locator}` } : {}),
    events: [`e${++count}`],
    label: sig,
    at: NaN,
    until: NaN,
    page: '/shop',
    inFlight: {},
    ...more,
  };
}

/** @param more requests as key, start and end */
export function sketch(
  id: string,
  steps: readonly SketchStep[],
  more: { requests?: readonly [string, number, number][] } & Omit<Partial<Sketch>, 'requests'> = {},
): Sketch {
  const { requests = [], ...rest } = more;
  return {
    id,
    outcome: steps.some(({ error }) => error) ? 'failed' : 'passed',
    environment: { browser: 'chromium', version: '156', width: 1280, height: 800 },
    commit: '7c1e09b4f2',
    startedAt: 1_795_000_000_000,
    until: steps.length * 100 + 100,
    steps: steps.map((one, i) => ({
      ...one,
      at: Number.isNaN(one.at) ? i * 100 : one.at,
      until: Number.isNaN(one.until) ? i * 100 + 12 : one.until,
    })),
    requests: requests.map(([key, at, until], i) => ({
      key,
      event: `r${id}${i}`,
      at,
      until,
      own: true,
      type: 'fetch',
      ended: '2xx',
      status: 200,
    })),
    console: [],
    checks: [],
    dialogs: [],
    windows: [],
    structures: [],
    ...rest,
  };
}
