import { plural } from '../core/evidence/labels.ts';
import type { FileFate } from '../core/records.ts';

/** How times, counts and rates are written everywhere. */

export const seconds = (ms: number): string => `${(ms / 1000).toFixed(3)} s`;

export { duration, plural } from '../core/evidence/labels.ts';

export const percent = (share: number): string => `${(share * 100).toFixed(share > 0 && share < 0.1 ? 1 : 0)} %`;

export const megabytes = (bytes: number): string =>
  bytes >= 1024 ** 3
    ? `${(bytes / 1024 ** 3).toFixed(1)} GiB`
    : bytes >= 1024 ** 2
      ? `${(bytes / 1024 ** 2).toFixed(bytes < 10 * 1024 ** 2 ? 1 : 0)} MiB`
      : `${Math.ceil(bytes / 1024)} KiB`;

/** What became of a file, as it is counted: “12 placed, 3 in the tray”. */
export const fateWords: Record<FileFate, string> = {
  coming: 'to come',
  here: 'here, not read',
  report: 'report',
  read: 'read',
  placed: 'placed',
  shared: 'shared out',
  waits: 'in the tray',
  'left out': 'left out',
  known: 'known before',
};
/** “1 report, 12 placed”. */
export const fateCount = (fate: FileFate, count: number): string =>
  `${count.toLocaleString('en')} ${fate === 'report' && count !== 1 ? 'reports' : fateWords[fate]}`;
export const fateOrder: readonly FileFate[] = [
  'coming',
  'here',
  'report',
  'read',
  'placed',
  'shared',
  'waits',
  'left out',
  'known',
];

const day = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' });
export const moment = (at: number): string => day.format(new Date(at));

export const probability = (value: number): string =>
  value < 0.01 ? 'under 0.01' : value > 0.99 ? 'over 0.99' : value.toFixed(2);

/** Since when a family is known, as one run sees it. */
export function sinceText(
  family: { since: 'new' | 'returned' | 'known'; lastSeen: number | null; runs: number },
  at?: number,
): string {
  if (family.since === 'new') return 'new in this run';
  if (family.since === 'returned' && family.lastSeen !== null)
    return `back after ${away((at ?? Date.now()) - family.lastSeen)}`;
  return `seen in ${plural(family.runs, 'run')}`;
}

const away = (ms: number): string => {
  const hours = ms / 3_600_000;
  return hours < 1
    ? plural(Math.max(1, Math.round(hours * 60)), 'minute')
    : hours < 48
      ? plural(Math.round(hours), 'hour')
      : plural(Math.round(hours / 24), 'day');
};
