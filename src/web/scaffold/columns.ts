/** Where the poles stand across the scaffold, from its width: fixed gutters, the rest shared out by need. */
export interface Column {
  key: 'step' | 'wait' | 'element' | 'network' | 'console' | 'screen';
  name: string;
  left: number;
  width: number;
}

export const gutter = { mini: 24, pennant: 24, time: 52 } as const;

const shares: { key: Column['key']; name: string; least: number; share: number }[] = [
  { key: 'step', name: 'Steps', least: 190, share: 3 },
  { key: 'wait', name: 'Waits', least: 70, share: 0.6 },
  { key: 'element', name: 'Elements', least: 122, share: 1 },
  { key: 'network', name: 'Network', least: 122, share: 1.4 },
  { key: 'console', name: 'Console', least: 128, share: 2.2 },
  { key: 'screen', name: 'Screen', least: 86, share: 0.4 },
];

export function columnsOf(width: number): Column[] {
  const start = gutter.mini + gutter.pennant + gutter.time;
  const least = shares.reduce((sum, { least: one }) => sum + one, 0);
  const whole = shares.reduce((sum, { share }) => sum + share, 0);
  // On a narrow screen every pole gives a little; none falls off the edge.
  const squeeze = Math.min(1, (width - start) / least);
  const spare = Math.max(0, width - start - least);
  let left = start;
  return shares.map(({ key, name, least: one, share }) => {
    const column = { key, name, left, width: one * squeeze + (spare * share) / whole };
    left += column.width;
    return column;
  });
}
