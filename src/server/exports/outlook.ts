import { writeCsv } from '../../core/formats/csv.ts';
import type { OutlookRow } from '../../core/risks/told.ts';

const head = [
  'suite',
  'test',
  'likely',
  'risk',
  'step',
  'source',
  'seen in',
  'of',
  'chance',
  'what was seen',
  'what to change',
];

/** Every risk of the listed tests as a line of CSV. */
export const outlookCsv = (tests: readonly OutlookRow[]): string =>
  writeCsv(
    head,
    tests.flatMap(({ test, score, risks }) =>
      risks.map((one) => [
        test.suite,
        test.title,
        score,
        one.kind,
        one.step,
        one.source ?? '',
        one.seen,
        one.of,
        one.chance,
        one.summary,
        one.change,
      ]),
    ),
  );
