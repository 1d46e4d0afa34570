import { isFailure, standingOf, type Outcome, type TestStanding } from './evidence/attempt.ts';
import { fisherExact } from './stats/fisher.ts';
import { wilson, type Rate } from './stats/wilson.ts';

/** The run sheet's matter: every attempt of a run, as few bytes each as will do, since runs have a hundred thousand. */
export interface Sheet {
  tests: { id: string; suite: string; title: string; tags: string[] }[];
  environments: string[];
  families: string[];
  workers: string[];
  attempts: SheetAttempt[];
}

/**
 * What a cell says besides the outcome: nothing; that it is still recorded; that it passed and the passing is doubtful; or
 * that it passed against the standing rules, by a policy that fails it or by one that only tells.
 */
export const marks = { none: 0, recording: 1, doubtful: 2, against: 3, told: 4 } as const;
export type Mark = (typeof marks)[keyof typeof marks];

/** What an attempt is called on the sheet. */
export const calledOf = (attempt: SheetAttempt): string => called[attempt[9]] ?? attempt[3];
const called: Partial<Record<Mark, string>> = {
  [marks.recording]: 'being recorded',
  [marks.doubtful]: 'passed, doubtful',
  [marks.against]: 'passed, against the rules',
  [marks.told]: 'passed, with something against a rule that only tells',
};

/** Whether the attempt that counts of a cell, its last, passed against the rules. */
export const isAgainst = (cell: readonly SheetAttempt[]): boolean => cell.at(-1)?.[9] === marks.against;

/** test, environment, number, outcome, id, startedAt, durationMs, family or −1, worker or −1, its mark */
export type SheetAttempt = [
  test: number,
  environment: number,
  number: number,
  outcome: Outcome,
  id: string,
  startedAt: number,
  durationMs: number,
  family: number,
  worker: number,
  mark: Mark,
];

export interface SheetRow {
  test: number;
  id: string;
  suite: string;
  title: string;
  tags: string[];
  /** Attempts in order, by environment. */
  cells: SheetAttempt[][];
  standing: TestStanding;
  durationMs: number;
}

export interface SheetFilter {
  words: string;
  show: string;
  tag: string;
  environment: string;
  family: string;
}

/** What needs a look comes first. */
export const standingOrder: TestStanding[] = [
  'failed',
  'errored',
  'flaky',
  'interrupted',
  'unreported',
  'skipped',
  'passed',
];

const outcomeOf = (attempt: SheetAttempt): { outcome: Outcome } => ({ outcome: attempt[3] });

/** Rows of the matrix: one a test, its attempts by environment. */
export function sheetRows(sheet: Sheet): SheetRow[] {
  const rows = sheet.tests.map((test, i): SheetRow => ({
    test: i,
    ...test,
    cells: sheet.environments.map(() => []),
    standing: 'passed',
    durationMs: 0,
  }));
  for (const attempt of sheet.attempts) {
    const row = rows[attempt[0]]!;
    row.cells[attempt[1]]!.push(attempt);
    if (attempt[6] > row.durationMs) row.durationMs = attempt[6];
  }
  for (const row of rows) {
    let worst = standingOrder.length - 1;
    for (const cell of row.cells)
      if (cell.length) worst = Math.min(worst, standingOrder.indexOf(standingOf(cell.map(outcomeOf))));
    row.standing = standingOrder[worst]!;
  }
  return rows;
}

/** The rows a filter leaves, what needs a look first. */
export function filterRows(sheet: Sheet, rows: readonly SheetRow[], filter: SheetFilter): SheetRow[] {
  const needles = filter.words.toLowerCase().split(/\s+/).filter(Boolean);
  const environment = filter.environment ? sheet.environments.indexOf(filter.environment) : -1;
  const family = filter.family ? sheet.families.indexOf(filter.family) : -1;
  // A filter for what this run does not have leaves nothing.
  if ((filter.environment && environment < 0) || (filter.family && family < 0)) return [];
  const rank = new Map(standingOrder.map((standing, i) => [standing, i]));
  return rows
    .filter((row) => {
      if (filter.tag && !row.tags.includes(filter.tag)) return false;
      const standing =
        environment >= 0
          ? row.cells[environment]?.length
            ? standingOf(row.cells[environment].map(outcomeOf))
            : undefined
          : row.standing;
      if (standing === undefined) return false;
      if (filter.show === 'against') {
        if (!(environment >= 0 ? [row.cells[environment] ?? []] : row.cells).some(isAgainst)) return false;
      } else if (
        filter.show !== 'all' &&
        standing !== filter.show &&
        !(filter.show === 'failed' && standing === 'errored') &&
        !(filter.show === 'other' && ['skipped', 'interrupted', 'unreported'].includes(standing))
      )
        return false;
      if (filter.family && !row.cells.some((cell) => cell.some((attempt) => attempt[7] === family))) return false;
      if (!needles.length) return true;
      const text = `${row.suite} ${row.title}`.toLowerCase();
      return needles.every((needle) => text.includes(needle));
    })
    .sort(
      (a, b) =>
        rank.get(a.standing)! - rank.get(b.standing)! ||
        (a.suite < b.suite ? -1 : a.suite > b.suite ? 1 : a.title < b.title ? -1 : a.title > b.title ? 1 : 0),
    );
}

/** Failures of one environment against all others, over the tests both ran. */
export interface EnvironmentComparison {
  environment: string;
  failed: number;
  of: number;
  rate: Rate;
  otherFailed: number;
  otherOf: number;
  otherRate: Rate;
  /** Fisher's exact test, two-sided: how likely a difference like this is if the environment did not matter. */
  p: number;
  /** Tests that fail here and never elsewhere, though they ran elsewhere. */
  onlyHere: {
    test: number;
    title: string;
    suite: string;
    failed: number;
    of: number;
    elsewhere: number;
    p: number;
    attempt: string;
  }[];
}

/** Compares each environment with the others, by attempts of the tests that ran in it and elsewhere. */
export function compareEnvironments(sheet: Sheet, rows: readonly SheetRow[]): EnvironmentComparison[] {
  return sheet.environments.map((environment, e) => {
    let [failed, of, otherFailed, otherOf] = [0, 0, 0, 0];
    const onlyHere: EnvironmentComparison['onlyHere'] = [];
    for (const row of rows) {
      const here = row.cells[e]!;
      const elsewhere = row.cells.filter((_, i) => i !== e).flat();
      if (!here.length || !elsewhere.length) continue;
      const failures = here.filter((attempt) => isFailure(attempt[3]));
      const others = elsewhere.filter((attempt) => isFailure(attempt[3])).length;
      failed += failures.length;
      of += here.length;
      otherFailed += others;
      otherOf += elsewhere.length;
      if (failures.length && others === 0)
        onlyHere.push({
          test: row.test,
          title: row.title,
          suite: row.suite,
          failed: failures.length,
          of: here.length,
          elsewhere: elsewhere.length,
          p: fisherExact(failures.length, here.length, 0, elsewhere.length),
          attempt: failures[0]![4],
        });
    }
    onlyHere.sort((a, b) => a.p - b.p || b.failed - a.failed);
    return {
      environment,
      failed,
      of,
      rate: wilson(failed, of),
      otherFailed,
      otherOf,
      otherRate: wilson(otherFailed, otherOf),
      p: of && otherOf ? fisherExact(failed, of, otherFailed, otherOf) : 1,
      onlyHere,
    };
  });
}

/** Attempts of one worker in the order they ran. */
export interface WorkerLine {
  worker: string;
  attempts: SheetAttempt[];
}

/** Who ran after whom and beside whom: one line a worker, earliest first. Attempts without a worker are laid on as few lines as hold them without overlap. */
export function byWorker(sheet: Sheet): WorkerLine[] {
  const lines = sheet.workers.map((worker): WorkerLine => ({ worker, attempts: [] }));
  const free: WorkerLine[] = [];
  const ordered = [...sheet.attempts].sort((a, b) => a[5] - b[5]);
  for (const attempt of ordered) {
    if (attempt[8] >= 0) {
      lines[attempt[8]]!.attempts.push(attempt);
      continue;
    }
    let line = free.find(({ attempts }) => attempts.at(-1)![5] + attempts.at(-1)![6] <= attempt[5] + 1);
    if (!line) free.push((line = { worker: '', attempts: [] }));
    line.attempts.push(attempt);
  }
  return [...lines, ...free];
}

/** Attempts whose time overlaps an attempt's, and the one that ran before it on the same line. */
export function neighbours(
  lines: readonly WorkerLine[],
  id: string,
): { before?: SheetAttempt; beside: SheetAttempt[] } {
  for (const line of lines) {
    const i = line.attempts.findIndex((attempt) => attempt[4] === id);
    if (i < 0) continue;
    const one = line.attempts[i]!;
    const [from, until] = [one[5], one[5] + one[6]];
    const beside = lines
      .filter((other) => other !== line)
      .flatMap((other) => other.attempts.filter((a) => a[5] < until && a[5] + a[6] > from));
    const before = line.attempts[i - 1];
    return { ...(before ? { before } : {}), beside };
  }
  return { beside: [] };
}
