import type Database from 'better-sqlite3';
import type { Series, SeriesState } from '../../core/records.ts';
import { newId } from './attempts.ts';

export interface StoredDrill {
  id: string;
  attemptId: string | null;
  title: string;
  text: string;
  createdAt: number;
}

/** Drills and the series played from them. */
export class Drills {
  constructor(private readonly db: Database.Database) {}

  add(text: string, title: string, attemptId: string | null): StoredDrill {
    const drill = { id: newId('d'), attemptId, title, text, createdAt: Date.now() };
    this.db
      .prepare(
        'INSERT INTO drills (id, attempt_id, title, text, created_at) VALUES (@id, @attemptId, @title, @text, @createdAt)',
      )
      .run(drill);
    return drill;
  }

  change(id: string, text: string, title: string): void {
    this.db.prepare('UPDATE drills SET text = ?, title = ? WHERE id = ?').run(text, title, id);
  }

  get(id: string): StoredDrill | undefined {
    return this.db
      .prepare('SELECT id, attempt_id AS attemptId, title, text, created_at AS createdAt FROM drills WHERE id = ?')
      .get(id) as StoredDrill | undefined;
  }

  newest(limit = 100): StoredDrill[] {
    return this.db
      .prepare(
        'SELECT id, attempt_id AS attemptId, title, text, created_at AS createdAt FROM drills ORDER BY created_at DESC LIMIT ?',
      )
      .all(limit) as StoredDrill[];
  }

  /** @param text what is played, whatever becomes of the drill */
  addSeries(drillId: string, runId: string, engine: string, trials: number, text: string): Series {
    const series: Series = {
      id: newId('s'),
      drillId,
      runId,
      engine,
      trials,
      state: 'waiting',
      problem: null,
      createdAt: Date.now(),
      text,
    };
    this.db
      .prepare(
        'INSERT INTO series (id, drill_id, run_id, engine, trials, state, problem, created_at, text) VALUES (@id, @drillId, @runId, @engine, @trials, @state, @problem, @createdAt, @text)',
      )
      .run(series);
    return series;
  }

  series(id: string): Series | undefined {
    return this.db.prepare(`${selectSeries} WHERE id = ?`).get(id) as Series | undefined;
  }

  seriesOf(drill: string): Series[] {
    return this.db.prepare(`${selectSeries} WHERE drill_id = ? ORDER BY created_at DESC`).all(drill) as Series[];
  }

  setSeries(id: string, state: SeriesState, problem: string | null = null): void {
    this.db.prepare('UPDATE series SET state = ?, problem = ? WHERE id = ?').run(state, problem, id);
  }

  /** Series a killed server left unfinished: what ran is kept, and they say that they were stopped. */
  stopUnfinished(): void {
    this.db
      .prepare(
        "UPDATE series SET state = 'stopped', problem = 'Iskel was stopped while it ran' WHERE state IN ('waiting', 'running')",
      )
      .run();
  }
}

const selectSeries =
  'SELECT id, drill_id AS drillId, run_id AS runId, engine, trials, state, problem, created_at AS createdAt, text FROM series';
