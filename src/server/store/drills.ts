import type Database from 'better-sqlite3';
import type { ProofKept, SearchKept, Series, SeriesState } from '../../core/records.ts';
import type { Stressor } from '../../core/trials/stressor.ts';
import type { Confirmed } from '../../core/drill/reach.ts';
import { newId } from './attempts.ts';

export interface StoredDrill {
  id: string;
  attemptId: string | null;
  title: string;
  text: string;
  createdAt: number;
  /** Made of evidence that came from elsewhere: it types no secrets and no files before somebody has allowed them. */
  fromOutside: boolean;
  confirmed: Confirmed | null;
}

interface DrillRow extends Omit<StoredDrill, 'fromOutside' | 'confirmed'> {
  fromOutside: number;
  confirmed: string | null;
}

const drillFrom = (row: DrillRow): StoredDrill => ({
  ...row,
  fromOutside: row.fromOutside === 1,
  confirmed: row.confirmed === null ? null : (JSON.parse(row.confirmed) as Confirmed),
});

const drillColumns =
  'id, attempt_id AS attemptId, title, text, created_at AS createdAt, from_outside AS fromOutside, confirmed';

/** Drills and the series played from them. */
export class Drills {
  constructor(private readonly db: Database.Database) {}

  add(text: string, title: string, attemptId: string | null): StoredDrill {
    const drill = { id: newId('d'), attemptId, title, text, createdAt: Date.now() };
    const fromOutside = attemptId !== null && this.isFromOutside(attemptId);
    this.db
      .prepare(
        'INSERT INTO drills (id, attempt_id, title, text, created_at, from_outside) VALUES (@id, @attemptId, @title, @text, @createdAt, @outside)',
      )
      .run({ ...drill, outside: Number(fromOutside) });
    return { ...drill, fromOutside, confirmed: null };
  }

  /** Whether an attempt was recorded anywhere but by this server itself. */
  private isFromOutside(attempt: string): boolean {
    const own = "SELECT 1 FROM attempts WHERE id = ? AND intake_id IS NULL AND source = 'recorded'";
    return this.db.prepare(own).get(attempt) === undefined;
  }

  confirm(id: string, confirmed: Confirmed): void {
    this.db.prepare('UPDATE drills SET confirmed = ? WHERE id = ?').run(JSON.stringify(confirmed), id);
  }

  change(id: string, text: string, title: string): void {
    this.db.prepare('UPDATE drills SET text = ?, title = ? WHERE id = ?').run(text, title, id);
  }

  setSeriesText(id: string, text: string): void {
    this.db.prepare('UPDATE series SET text = ? WHERE id = ?').run(text, id);
  }

  get(id: string): StoredDrill | undefined {
    const row = this.db.prepare(`SELECT ${drillColumns} FROM drills WHERE id = ?`).get(id) as DrillRow | undefined;
    return row && drillFrom(row);
  }

  newest(limit = 100): StoredDrill[] {
    const rows = this.db.prepare(`SELECT ${drillColumns} FROM drills ORDER BY created_at DESC LIMIT ?`).all(limit);
    return (rows as DrillRow[]).map(drillFrom);
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
