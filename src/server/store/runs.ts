import { isoOf } from '../../core/formats/times.ts';
import type Database from 'better-sqlite3';
import type { Run } from '../../core/records.ts';
import { newId } from './attempts.ts';
import { prepared } from './prepared.ts';
import { quickSummary, summarise, type RunPart, type RunSummary } from './run-summary.ts';

interface Row {
  id: string;
  name: string;
  started_at: number;
  commit_id: string | null;
  branch: string | null;
}

/** Unnamed sessions that begin within this time of each other belong to one run. */
const unnamedPauseMs = 10 * 60_000;

/** Runs and their totals. */
export class Runs {
  /** The run of a test command that is under way: sessions that name none are taken for its own. */
  underWay: string | undefined;
  private readonly recent = new Map<string, { at: number; took: number; summary: RunSummary }>();

  constructor(private readonly db: Database.Database) {}

  byName(name: string): string | undefined {
    return (prepared(this.db, 'SELECT id FROM runs WHERE name = ?').get(name) as { id: string } | undefined)?.id;
  }

  /** The run of this name; made when there is none. */
  named(
    name: string,
    startedAt: number,
    more: { commit?: string; branch?: string; kind?: 'tests' | 'trials' } = {},
  ): string {
    const known = this.db.prepare('SELECT id FROM runs WHERE name = ?').get(name) as { id: string } | undefined;
    if (known) {
      prepared(this.db, "UPDATE runs SET kind = 'tests' WHERE id = ? AND kind = 'moved'").run(known.id);
      return known.id;
    }
    const id = newId('r');
    this.db
      .prepare('INSERT INTO runs (id, name, kind, started_at, commit_id, branch) VALUES (?, ?, ?, ?, ?, ?)')
      .run(id, name, more.kind ?? 'tests', startedAt, more.commit ?? null, more.branch ?? null);
    return id;
  }

  /** The run for a session that named none: the running burst of such sessions, or a new one. */
  unnamed(startedAt: number): string {
    if (this.underWay) return this.underWay;
    const recent = this.db
      .prepare(
        "SELECT r.id FROM runs r JOIN attempts a ON a.run_id = r.id WHERE r.name LIKE 'Unnamed run of %' AND a.started_at > ? ORDER BY a.started_at DESC LIMIT 1",
      )
      .get(startedAt - unnamedPauseMs) as { id: string } | undefined;
    if (recent) return recent.id;
    const time = isoOf(startedAt).slice(0, 19).replace('T', ' ');
    return this.named(`Unnamed run of ${time}`, startedAt);
  }

  /** A run whose attempts have all become another's, as a report told, is none any more; until one is in it again. */
  moved(id: string): void {
    prepared(
      this.db,
      "UPDATE runs SET kind = 'moved' WHERE id = ? AND kind = 'tests' AND NOT EXISTS (SELECT 1 FROM attempts WHERE run_id = runs.id)",
    ).run(id);
  }

  newest(limit = 50, before = Number.MAX_SAFE_INTEGER): Run[] {
    const rows = prepared(
      this.db,
      "SELECT * FROM runs WHERE kind = 'tests' AND started_at < ? ORDER BY started_at DESC LIMIT ?",
    ).all(before, limit) as Row[];
    return rows.map((row) => this.withTotals(row));
  }

  get(id: string): Run | undefined {
    const row = prepared(this.db, 'SELECT * FROM runs WHERE id = ?').get(id) as Row | undefined;
    return row && this.withTotals(row);
  }

  /** When the test run before a time began; undefined when there is none. */
  startBefore(time: number): number | undefined {
    const row = prepared(
      this.db,
      "SELECT started_at AS at FROM runs WHERE kind = 'tests' AND started_at < ? ORDER BY started_at DESC LIMIT 1",
    ).get(time) as { at: number } | undefined;
    return row?.at;
  }

  /** The run's counts, from the last time they were made when nothing has changed since. */
  summary(id: string): RunSummary {
    const kept = (
      prepared(this.db, 'SELECT summary FROM runs WHERE id = ?').get(id) as { summary: string | null } | undefined
    )?.summary;
    if (kept) return JSON.parse(kept) as RunSummary;
    // A run that grows quickly is not counted anew for each of its attempts.
    const recent = this.recent.get(id);
    if (recent && Date.now() - recent.at < recent.took * 20) return recent.summary;
    const arriving = prepared(this.db, "SELECT 1 FROM intakes WHERE run_id = ? AND state = 'reading'").get(id);
    if (arriving) {
      const summary = quickSummary(this.db, id);
      this.recent.set(id, { at: Date.now(), took: 100, summary });
      return summary;
    }
    return this.counted(id);
  }

  /** Counts a run from its attempts and keeps what came out, also while it still arrives. */
  counted(id: string): RunSummary {
    const begun = Date.now();
    const { summary, parts } = summarise(this.db, id);
    const took = Date.now() - begun;
    if (took > 20) this.recent.set(id, { at: Date.now(), took, summary });
    else this.recent.delete(id);
    try {
      this.db.transaction(() => this.keepCounted(id, summary, parts))();
    } catch {
      // It is kept to be quicker next time: a database that is busy, or a disk that is full, keeps nobody from looking.
    }
    return summary;
  }

  private keepCounted(id: string, summary: RunSummary, parts: readonly RunPart[]): void {
    prepared(this.db, 'UPDATE runs SET summary = ? WHERE id = ?').run(JSON.stringify(summary), id);
    prepared(this.db, 'DELETE FROM run_parts WHERE run_id = ?').run(id);
    const insert = prepared(
      this.db,
      'INSERT INTO run_parts (run_id, suite, environment, ran, failed, flaky, retry_ms) VALUES (?, ?, ?, ?, ?, ?, ?)',
    );
    for (const { suite, environment, ran, failed, flaky, retryMs } of parts)
      insert.run(id, suite, environment, ran, failed, flaky, retryMs);
  }

  /** Counts the runs of tests since a time that have changed since they were counted last. */
  countSince(time: number): void {
    const changed = prepared(
      this.db,
      "SELECT id FROM runs WHERE kind = 'tests' AND started_at >= ? AND summary IS NULL",
    )
      .pluck()
      .all(time) as string[];
    for (const id of changed) this.counted(id);
  }

  /** The run's start, after the starts of its attempts were corrected. */
  beganWithItsFirst(id: string): void {
    this.db
      .prepare(
        'UPDATE runs SET summary = NULL, started_at = coalesce((SELECT min(started_at) FROM attempts WHERE run_id = runs.id), started_at) WHERE id = ?',
      )
      .run(id);
  }

  /** Removes a run with everything in it. */
  remove(id: string): void {
    this.db.prepare('DELETE FROM runs WHERE id = ?').run(id);
  }

  private withTotals(row: Row): Run {
    const { totals, recording, from, until, environments } = this.summary(row.id);
    return {
      id: row.id,
      name: row.name,
      startedAt: row.started_at,
      commit: row.commit_id,
      branch: row.branch,
      recording,
      from,
      until,
      environments,
      totals,
    };
  }
}
