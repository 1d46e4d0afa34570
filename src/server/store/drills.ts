import type Database from 'better-sqlite3';
import type { ProofKept, SearchKept, Series, SeriesState } from '../../core/records.ts';
import type { Stressor } from '../../core/trials/stressor.ts';
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

  setSeriesText(id: string, text: string): void {
    this.db.prepare('UPDATE series SET text = ? WHERE id = ?').run(text, id);
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

  addSeries(begun: Omit<Series, 'id' | 'state' | 'problem' | 'createdAt'>): Series {
    const series: Series = { ...begun, id: newId('s'), state: 'waiting', problem: null, createdAt: Date.now() };
    this.db
      .prepare(
        'INSERT INTO series (id, drill_id, run_id, engine, trials, state, problem, created_at, text, stressors, until_fails, detail, search, proof) VALUES (@id, @drillId, @runId, @engine, @trials, @state, @problem, @createdAt, @text, @stressors, @untilFails, @detail, @search, @proof)',
      )
      .run({
        ...series,
        stressors: JSON.stringify(series.stressors),
        untilFails: Number(series.untilFails),
        search: series.search ? JSON.stringify(series.search) : null,
        proof: series.proof ? JSON.stringify(series.proof) : null,
      });
    return series;
  }

  series(id: string): Series | undefined {
    const row = this.db.prepare(`${selectSeries} WHERE id = ?`).get(id) as SeriesRow | undefined;
    return row && seriesFrom(row);
  }

  seriesOf(drill: string): Series[] {
    const rows = this.db
      .prepare(`${selectSeries} WHERE drill_id = ? AND proof IS NULL ORDER BY created_at DESC`)
      .all(drill);
    return (rows as SeriesRow[]).map(seriesFrom);
  }

  /** Proofs of remedies of an attempt that were played to their end, the oldest first. */
  proofsOf(attempt: string): Series[] {
    const rows = this.db
      .prepare(
        `${selectSeries} WHERE drill_id IN (SELECT id FROM drills WHERE attempt_id = ?) AND proof IS NOT NULL AND state = 'done' ORDER BY created_at`,
      )
      .all(attempt);
    return (rows as SeriesRow[]).map(seriesFrom);
  }

  /** The same in brief: without the texts that were played and what was to be tried. */
  brief(
    series: Series,
  ): Omit<Series, 'text' | 'search' | 'proof'> & { search: Pick<SearchKept, 'budget' | 'ended'> | null } {
    const { text: _text, search, proof: _proof, ...rest } = series;
    return { ...rest, search: search && { budget: search.budget, ...(search.ended ? { ended: search.ended } : {}) } };
  }

  /** What a search has come to know of its grounds, or why it ended. */
  setSearch(id: string, search: SearchKept): void {
    this.db.prepare('UPDATE series SET search = ? WHERE id = ?').run(JSON.stringify(search), id);
  }

  setSeries(id: string, state: SeriesState, problem: string | null = null): void {
    this.db.prepare('UPDATE series SET state = ?, problem = ? WHERE id = ?').run(state, problem, id);
  }

  /** Series a killed server left unfinished: what ran is kept, and they say that they were stopped. Searches and proofs go on. */
  stopUnfinished(): void {
    this.db
      .prepare(
        "UPDATE series SET state = 'stopped', problem = 'Iskel was stopped while it ran' WHERE state IN ('waiting', 'running') AND search IS NULL AND proof IS NULL",
      )
      .run();
  }

  /** Searches and proofs that a server left unfinished, the oldest first. */
  unfinished(): Series[] {
    const rows = this.db.prepare(`${selectSeries} WHERE state IN ('waiting', 'running') ORDER BY created_at`).all();
    return (rows as SeriesRow[]).map(seriesFrom);
  }
}

const selectSeries =
  'SELECT id, drill_id AS drillId, run_id AS runId, engine, trials, state, problem, created_at AS createdAt, text, stressors, until_fails AS untilFails, detail, search, proof FROM series';

type SeriesRow = Omit<Series, 'stressors' | 'untilFails' | 'search' | 'proof'> &
  Record<'stressors' | 'search' | 'proof', string | null> & { untilFails: number };

const seriesFrom = (row: SeriesRow): Series => ({
  ...row,
  untilFails: row.untilFails === 1,
  stressors: row.stressors ? (JSON.parse(row.stressors) as Stressor[]) : [],
  search: row.search ? (JSON.parse(row.search) as SearchKept) : null,
  proof: row.proof ? (JSON.parse(row.proof) as ProofKept) : null,
});
