import type Database from 'better-sqlite3';
import type { Outcome } from '../../core/evidence/attempt.ts';
import { marks, type Mark, type Sheet } from '../../core/sheet.ts';
import { prepared } from './prepared.ts';

interface Row {
  id: string;
  test_id: string;
  suite: string;
  title: string;
  environment_key: string;
  number: number;
  outcome: Outcome;
  state: string;
  started_at: number;
  duration_ms: number;
  family_id: string | null;
  worker: string | null;
  tags: string | null;
  /** 1 when it passed and something makes the passing doubtful. */
  doubtful: 0 | 1;
  /** Of one that passed against the rules: 1 when that fails it, 0 when it is only told. */
  against: 0 | 1 | null;
}

/** Index of each distinct text in the order it first came. */
class Numbered {
  readonly texts: string[] = [];
  private readonly places = new Map<string, number>();
  of(text: string | null): number {
    if (text === null) return -1;
    let place = this.places.get(text);
    if (place === undefined) {
      this.places.set(text, (place = this.texts.length));
      this.texts.push(text);
    }
    return place;
  }
}

function markOf({ state, doubtful, against }: Row): Mark {
  if (state === 'recording') return marks.recording;
  if (against) return marks.against;
  if (doubtful) return marks.doubtful;
  return against === 0 ? marks.told : marks.none;
}

/** Every attempt of a run in the few words the run sheet needs. */
export function sheetOf(db: Database.Database, run: string): Sheet {
  const rows = prepared(
    db,
    `SELECT a.id, a.test_id, t.suite, t.title, a.environment_key, a.number, a.outcome, a.state, a.started_at, a.duration_ms, a.family_id,
       a.outcome = 'passed' AND a.undetermined = 0 AS doubtful,
       CASE WHEN a.outcome = 'passed' AND a.against IS NOT NULL THEN json_extract(a.against, '$.fails') END AS against,
       json_extract(a.labels, '$.worker') AS worker, json_extract(a.labels, '$.tags') AS tags
     FROM attempts a JOIN tests t ON t.id = a.test_id WHERE a.run_id = ? ORDER BY a.test_id, a.environment_key, a.number, a.started_at`,
  ).iterate(run) as IterableIterator<Row>;
  const [environments, families, workers] = [new Numbered(), new Numbered(), new Numbered()];
  const tests: Sheet['tests'] = [];
  const attempts: Sheet['attempts'] = [];
  for (const row of rows) {
    if (tests.at(-1)?.id !== row.test_id) tests.push({ id: row.test_id, suite: row.suite, title: row.title, tags: [] });
    const test = tests.at(-1)!;
    if (row.tags) for (const tag of JSON.parse(row.tags) as string[]) if (!test.tags.includes(tag)) test.tags.push(tag);
    attempts.push([
      tests.length - 1,
      environments.of(row.environment_key),
      row.number,
      row.outcome,
      row.id,
      row.started_at,
      Math.round(row.duration_ms),
      families.of(row.family_id),
      workers.of(row.worker),
      markOf(row),
    ]);
  }
  return { tests, environments: environments.texts, families: families.texts, workers: workers.texts, attempts };
}
