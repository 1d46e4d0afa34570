import { isoOf } from '../formats/times.ts';
import type { HandOver, HandedDifference, HandedSuspect } from './hand-over.ts';

/** Words that all forms of a hand-over share. */

/** A moment of the attempt: `5.033 s`. */
export const moment = (ms: number): string => `${(ms / 1000).toFixed(3)} s`;

/** The moment on the bench. */
export const linkAt = (link: string, at: number | undefined): string =>
  at === undefined ? link : `${link}?at=${at.toFixed(1)}`;

export const percentOf = (share: number): string => `${Math.round(share * 100)} %`;

const counted = ([n, of]: [number, number]): string => `${n} of ${of}`;
export const partedCounts = ({ failing, passing }: HandedDifference): string =>
  `${counted(failing)} failing, ${counted(passing)} passing`;

/** What the cause is, as surely as it is known. */
export function causeSentence({ verdict, suspects, undetermined }: HandOver): string {
  const [first] = suspects;
  if (verdict.confirmed) return `The cause was confirmed: ${verdict.confirmed}.`;
  if (!first) return 'No cause is named.';
  return undetermined
    ? `The evidence does not tell the cause; the likeliest is ${named(first)}.`
    : `The likeliest cause is ${named(first)}.`;
}
const named = ({ name, probability }: HandedSuspect): string => `${name.toLowerCase()}, ${percentOf(probability)}`;

/** Where and when, a line each. */
export function aboutRows(one: HandOver): [string, string][] {
  const { test, run, environment, startedAt, durationMs } = one;
  const rows: [string, string][] = [
    ['Test', `${test.suite ? `${test.suite} / ` : ''}${test.title}, attempt ${test.number}: ${one.outcome}`],
    [
      'Run',
      [run.name, run.branch && `branch ${run.branch}`, run.commit && `commit ${run.commit}`].filter(Boolean).join(', '),
    ],
    ['Where', environment],
    ['When', `${isoOf(startedAt)}, for ${moment(durationMs)}`],
  ];
  if (one.failure.line) rows.push(['Line of the test', one.failure.line]);
  if (one.failure.expected !== undefined) rows.push(['Expected', one.failure.expected]);
  if (one.failure.actual !== undefined) rows.push(['Was', one.failure.actual]);
  return rows;
}

export const leftOut = (n: number, what: string): string =>
  `${n} ${what}${n === 1 ? '' : 's'} before these are left out.`;
