import type Database from 'better-sqlite3';
import { isFailure, standingOf, type Outcome, type TestStanding } from '../../core/evidence/attempt.ts';
import type { Counts } from '../../core/history/points.ts';
import type { CauseCode } from '../../core/causes/cause.ts';
import type { Leading, RunFamily, Totals } from '../../core/records.ts';
import { prepared } from './prepared.ts';

/** What of a run's attempts its band and its families need: kept with the run until an attempt changes. */
export interface RunSummary {
  totals: Totals;
  recording: boolean;
  /** Start of its first attempt and end of its last, epoch ms; 0 without attempts. */
  from: number;
  until: number;
  environments: number;
  families: FamilySummary[];
}

/** What a suite came to in one environment of a run: its tests, each once. */
export interface RunPart extends Counts {
  suite: string;
  environment: string;
}

/** What of a family the run's own attempts tell. */
export type FamilySummary = Pick<
  RunFamily,
  'id' | 'tests' | 'environments' | 'count' | 'attempts' | 'allFlaky' | 'leading'
>;

interface Row {
  id: string;
  test_id: string;
  suite: string;
  environment_key: string;
  outcome: Outcome;
  state: string;
  started_at: number;
  duration_ms: number;
  family_id: string | null;
  cause: CauseCode | null;
  probability: number | null;
  /** 1 when it is against a standing rule that fails attempts. */
  against: 0 | 1;
}

const shown = 8;
/** A test counts once: as the worst of what its environments say. */
const worstLast: TestStanding[] = ['passed', 'skipped', 'unreported', 'interrupted', 'flaky', 'errored', 'failed'];

/** Counts a run from its attempts. */
export function summarise(db: Database.Database, run: string): { summary: RunSummary; parts: RunPart[] } {
  const rows = prepared(
    db,
    `SELECT a.id, a.test_id, t.suite, a.environment_key, a.outcome, a.state, a.started_at, a.duration_ms, a.family_id,
       CASE WHEN a.undetermined = 0 THEN s.cause END AS cause, s.probability,
       a.against IS NOT NULL AND json_extract(a.against, '$.fails') AS against
     FROM attempts a JOIN tests t ON t.id = a.test_id LEFT JOIN suspects s ON a.family_id IS NOT NULL AND s.attempt_id = a.id AND s.position = 0
     WHERE a.run_id = ? ORDER BY a.test_id, a.environment_key, a.number, a.started_at`,
  ).all(run) as Row[];
  const worst = new Map<string, TestStanding>();
  const environments = new Set<string>();
  const parts = new Map<string, RunPart>();
  const against = new Set<string>();
  const families = new Map<string, { row: Row; flaky: boolean }[]>();
  for (let i = 0; i < rows.length;) {
    const first = rows[i]!;
    let end = i + 1;
    while (
      end < rows.length &&
      rows[end]!.test_id === first.test_id &&
      rows[end]!.environment_key === first.environment_key
    )
      end++;
    const cell = rows.slice(i, end);
    const standing = standingOf(cell);
    environments.add(first.environment_key);
    count(parts, cell, standing);
    if (cell.at(-1)!.outcome === 'passed' && cell.at(-1)!.against) against.add(first.test_id);
    const known = worst.get(first.test_id);
    if (known === undefined || worstLast.indexOf(standing) > worstLast.indexOf(known))
      worst.set(first.test_id, standing);
    for (const row of cell) {
      if (!row.family_id) continue;
      const list = families.get(row.family_id);
      const member = { row, flaky: standing === 'flaky' };
      if (list) list.push(member);
      else families.set(row.family_id, [member]);
    }
    i = end;
  }
  const counts: Partial<Record<TestStanding, number>> = {};
  for (const standing of worst.values()) counts[standing] = (counts[standing] ?? 0) + 1;
  const of = (standing: TestStanding): number => counts[standing] ?? 0;
  const summary: RunSummary = {
    totals: {
      tests: worst.size,
      attempts: rows.length,
      passed: of('passed'),
      failed: of('failed'),
      flaky: of('flaky'),
      skipped: of('skipped'),
      errored: of('errored'),
      interrupted: of('interrupted'),
      unreported: of('unreported'),
      against: [...against].filter((test) => worst.get(test) === 'passed' || worst.get(test) === 'flaky').length,
    },
    recording: rows.some(({ state }) => state === 'recording'),
    from: rows.reduce((least, row) => Math.min(least, row.started_at), rows[0]?.started_at ?? 0),
    until: rows.reduce((most, row) => Math.max(most, row.started_at + row.duration_ms), 0),
    environments: environments.size,
    families: [...families]
      .map(([id, members]) => familyOf(id, members))
      .sort((a, b) => b.count - a.count || a.id.localeCompare(b.id)),
  };
  return { summary, parts: [...parts.values()] };
}

/** Adds what one test came to in one environment to its suite; what did not run to an end counts for nothing. */
function count(parts: Map<string, RunPart>, cell: readonly Row[], standing: TestStanding): void {
  const [failed, flaky] = [standing === 'failed' || standing === 'errored', standing === 'flaky'];
  if (!failed && !flaky && standing !== 'passed') return;
  const { suite, environment_key: environment } = cell[0]!;
  const key = `${suite}\n${environment}`;
  let part = parts.get(key);
  if (!part) parts.set(key, (part = { suite, environment, ran: 0, failed: 0, flaky: 0, retryMs: 0 }));
  part.ran++;
  if (failed) part.failed++;
  if (flaky) part.flaky++;
  for (const { duration_ms: ms } of cell.slice(1)) part.retryMs += ms;
}

/** Counts by attempt instead of by test, for a run that is still being read: cheap however many there are. */
export function quickSummary(db: Database.Database, run: string): RunSummary {
  const rows = prepared(db, 'SELECT outcome, count(*) AS n FROM attempts WHERE run_id = ? GROUP BY outcome').all(
    run,
  ) as { outcome: Outcome; n: number }[];
  const of = (outcome: Outcome): number => rows.find((row) => row.outcome === outcome)?.n ?? 0;
  const all = rows.reduce((sum, { n }) => sum + n, 0);
  return {
    totals: {
      tests: all,
      attempts: all,
      passed: of('passed'),
      failed: of('failed'),
      flaky: 0,
      skipped: of('skipped'),
      errored: of('errored'),
      interrupted: of('interrupted'),
      unreported: of('unreported'),
      against: 0,
    },
    recording: true,
    from: 0,
    until: 0,
    environments: 0,
    families: [],
  };
}

function familyOf(id: string, members: { row: Row; flaky: boolean }[]): FamilySummary {
  members.sort((a, b) => a.row.started_at - b.row.started_at);
  let leading: Leading | null = null;
  for (const { row } of members)
    if (row.cause && row.probability! > (leading?.probability ?? 0))
      leading = { cause: row.cause, probability: row.probability! };
  return {
    id,
    tests: new Set(members.map(({ row }) => row.test_id)).size,
    environments: new Set(members.map(({ row }) => row.environment_key)).size,
    count: members.length,
    attempts: members.slice(0, shown).map(({ row, flaky }) => ({ id: row.id, outcome: row.outcome, flaky })),
    allFlaky: members.every(({ flaky, row }) => flaky || !isFailure(row.outcome)),
    leading,
  };
}
