import type { Poles } from '../../core/scaffold/poles.ts';
import type { StopLane, Stops } from '../../core/scaffold/crowd.ts';

/** Where the poles stand across the scaffold, from its width: fixed gutters, the rest shared out by need. */
export type PoleKey = StopLane extends infer L ? (L extends 'poll' ? 'wait' : L) : never;

export interface Column {
  key: PoleKey;
  name: string;
  left: number;
  width: number;
}

/** What a person wants of a pole. */
export interface PolePlan {
  key: PoleKey;
  /** Always, never, or when the attempt has something on it that is worth the room. */
  show: 'yes' | 'no' | 'by need';
  /** How wide, against the usual. */
  wide: number;
}

export const gutter = { mini: 24, pennant: 24, time: 52 } as const;

export const poleNames: Readonly<Record<PoleKey, string>> = {
  step: 'Steps',
  wait: 'Waits',
  element: 'Elements',
  network: 'Network',
  console: 'Console',
  exception: 'Exceptions',
  screen: 'Screen',
  page: 'Page',
  window: 'Windows',
  note: 'Notes',
  service: 'Services',
};

const shares: Readonly<Record<PoleKey, { least: number; share: number }>> = {
  step: { least: 180, share: 3 },
  wait: { least: 76, share: 0.7 },
  element: { least: 122, share: 1 },
  network: { least: 122, share: 1.4 },
  console: { least: 128, share: 2.2 },
  exception: { least: 110, share: 1.2 },
  screen: { least: 82, share: 0.4 },
  page: { least: 100, share: 1 },
  window: { least: 84, share: 0.7 },
  note: { least: 96, share: 1 },
  service: { least: 110, share: 1.2 },
};

export const usualPlan: readonly PolePlan[] = (
  ['step', 'wait', 'element', 'network', 'service', 'console', 'exception', 'page', 'window', 'note', 'screen'] as const
).map((key) => ({ key, show: 'by need', wide: 1 }));

/** Which poles an attempt has a use for: those with something on them, and of the rarer ones those with something telling. */
export function neededPoles(poles: Poles, stops: Stops, roomy: boolean): Set<PoleKey> {
  const needed = new Set<PoleKey>(['step']);
  const has = (lane: StopLane): boolean => (stops[lane]?.length ?? 0) > 0;
  if (has('poll') || poles.pauses.length) needed.add('wait');
  for (const lane of ['element', 'network', 'service', 'console', 'exception', 'screen'] as const)
    if (has(lane)) needed.add(lane);
  if (poles.notes.some((note) => note.kind === 'step' || note.data.ok === false) || (roomy && has('note')))
    needed.add('note');
  const contexts = new Set(poles.window.filter((e) => e.kind === 'opened').map((e) => e.data.context));
  if (contexts.size > 1 || poles.window.some((e) => e.kind === 'dialog-opened')) needed.add('window');
  // What the page did is worth its room where there is some, or where nothing else tells of it.
  if (has('page') && (roomy || needed.size < 5)) needed.add('page');
  return needed;
}

export function columnsOf(width: number, plan: readonly PolePlan[], needed: ReadonlySet<PoleKey>): Column[] {
  const start = gutter.mini + gutter.pennant + gutter.time;
  const shown = plan.filter(({ key, show }) => show === 'yes' || (show === 'by need' && needed.has(key)));
  const least = shown.reduce((sum, { key, wide }) => sum + shares[key].least * wide, 0);
  const whole = shown.reduce((sum, { key, wide }) => sum + shares[key].share * wide, 0);
  // On a narrow screen every pole gives a little; none falls off the edge.
  const squeeze = Math.min(1, (width - start) / Math.max(1, least));
  const spare = Math.max(0, width - start - least);
  let left = start;
  return shown.map(({ key, wide }) => {
    const { least: one, share } = shares[key];
    const column = {
      key,
      name: poleNames[key],
      left,
      width: one * wide * squeeze + (whole ? (spare * share * wide) / whole : 0),
    };
    left += column.width;
    return column;
  });
}
