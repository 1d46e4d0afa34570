import type Database from 'better-sqlite3';
import type { EvidenceEvent, Lane } from '../../core/evidence/event.ts';
import { ownBy, type HostRules } from '../../core/rules/hosts.ts';
import type { Limits } from '../../core/rules/limits.ts';
import { mostInSight } from '../../core/scaffold/crowd.ts';
import { outlineJson, stretchJson } from './outline.ts';
import { prepared } from './prepared.ts';

interface Row {
  id: string;
  lane: string;
  kind: string;
  at: number;
  until: number | null;
  clock: string;
  data: string;
}

export interface EventQuery {
  lane?: readonly Lane[];
  from?: number;
  until?: number;
  /** Continue after this event: its `at` and id, as `at,id`. */
  after?: string;
  limit?: number;
}

const fromRow = (row: Row): EvidenceEvent =>
  ({
    id: row.id,
    lane: row.lane,
    kind: row.kind,
    at: row.at,
    ...(row.until === null ? {} : { until: row.until }),
    clock: row.clock,
    data: JSON.parse(row.data) as unknown,
  }) as EvidenceEvent;

/** The events of attempts. */
export class Events {
  private readonly insert: Database.Statement;
  private readonly uses: Database.Statement;

  /** @param hosts whose hosts are, as the standing rules say: it holds for what is written from then on */
  constructor(
    private readonly db: Database.Database,
    private readonly hosts?: () => HostRules,
  ) {
    this.insert = db.prepare(
      'INSERT OR REPLACE INTO events (attempt_id, id, lane, kind, at, until, clock, derived, data) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)',
    );
    this.uses = db.prepare('INSERT OR IGNORE INTO blob_uses (attempt_id, blob, shown) VALUES (?, ?, ?)');
  }

  /** Writes all of them or none. @returns how many bytes their content takes */
  write(attempt: string, events: readonly EvidenceEvent[], derived = false): number {
    let bytes = 0;
    const hosts = this.hosts?.();
    this.db.transaction(() => {
      for (const e of events) {
        const own = hosts && e.lane === 'network' ? ownBy(hosts, e.data.host) : undefined;
        const data = JSON.stringify(own === undefined ? e.data : { ...e.data, own });
        bytes += data.length;
        this.insert.run(attempt, e.id, e.lane, e.kind, e.at, e.until ?? null, e.clock, derived ? 1 : 0, data);
        // From here on the file is somebody's, whatever keeping lets go of.
        if ((e.lane === 'screen' || e.lane === 'page') && e.data.blob)
          this.uses.run(attempt, e.data.blob, e.lane === 'screen' ? 1 : 0);
      }
    })();
    return bytes;
  }

  /**
   * Writes events anew in whose content a text stands. Others are served in between: an attempt may hold a hundred thousand.
   * @param clean gives an event as it is to be kept
   */
  async rewrite(
    attempt: string,
    texts: readonly string[],
    clean: (event: EvidenceEvent) => EvidenceEvent,
  ): Promise<void> {
    const next = prepared(
      this.db,
      `SELECT id, lane, kind, at, until, clock, data FROM events
       WHERE attempt_id = ? AND derived = 0 AND id > ? ORDER BY id LIMIT 500`,
    );
    for (let from = ''; ;) {
      const rows = next.all(attempt, from) as Row[];
      const found = rows.filter(({ data }) => texts.some((text) => data.includes(text)));
      if (found.length)
        this.write(
          attempt,
          found.map((row) => clean(fromRow(row))),
        );
      if (rows.length < 500) return;
      from = rows.at(-1)!.id;
      await new Promise((done) => setImmediate(done));
    }
  }

  /** Everything recorded of an attempt, in time order, without what the analysis made. */
  recorded(attempt: string): EvidenceEvent[] {
    const rows = this.db
      .prepare(
        'SELECT id, lane, kind, at, until, clock, data FROM events WHERE attempt_id = ? AND derived = 0 ORDER BY at, id',
      )
      .all(attempt) as Row[];
    return rows.map(fromRow);
  }

  /** Which hosts an attempt asked, and whether they were called its own. */
  hostsOf(attempt: string): { host: string; own: boolean; requests: number }[] {
    const rows = prepared(
      this.db,
      `SELECT json_extract(data, '$.host') AS host, json_extract(data, '$.own') AS own, count(*) AS requests
       FROM events WHERE attempt_id = ? AND lane = 'network' AND derived = 0 GROUP BY 1, 2`,
    ).all(attempt) as { host: string | null; own: number; requests: number }[];
    return rows.flatMap(({ host, own, requests }) => (host ? [{ host, own: own === 1, requests }] : []));
  }

  /** How much an attempt holds. */
  holds(attempt: string): Limits {
    const bytes = prepared(
      this.db,
      'SELECT coalesce(sum(b.size), 0) FROM blob_uses u JOIN blobs b ON b.name = u.blob WHERE u.attempt_id = ?',
    )
      .pluck()
      .get(attempt) as number;
    return { events: this.count(attempt), picturesMb: Math.round(bytes / 1024 ** 2) };
  }

  /** How many events were recorded of an attempt. */
  count(attempt: string): number {
    return prepared(this.db, 'SELECT count(*) FROM events WHERE attempt_id = ? AND derived = 0')
      .pluck()
      .get(attempt) as number;
  }

  /** The last time any recorded event speaks of; 0 without events. */
  lastTime(attempt: string): number {
    return (
      this.db
        .prepare('SELECT coalesce(max(coalesce(until, at)), 0) AS t FROM events WHERE attempt_id = ?')
        .get(attempt) as { t: number }
    ).t;
  }

  page(attempt: string, query: EventQuery): { events: EvidenceEvent[]; after: string | null } {
    const limit = Math.min(Math.max(query.limit ?? 1000, 1), 10_000);
    const where = ['attempt_id = ?'];
    const values: (string | number)[] = [attempt];
    if (query.lane?.length) {
      where.push(`lane IN (${query.lane.map(() => '?').join(', ')})`);
      values.push(...query.lane);
    }
    if (query.from !== undefined) {
      where.push('coalesce(until, at) >= ?');
      values.push(query.from);
    }
    if (query.until !== undefined) {
      where.push('at <= ?');
      values.push(query.until);
    }
    const [, at, id] = /^(-?[\d.]+),(.+)$/.exec(query.after ?? '') ?? [];
    if (at !== undefined) {
      where.push('(at, id) > (?, ?)');
      values.push(Number(at), id!);
    }
    const sql = `SELECT id, lane, kind, at, until, clock, data FROM events WHERE ${where.join(' AND ')} ORDER BY at, id LIMIT ?`;
    const rows = this.db.prepare(sql).all(...values, limit + 1) as Row[];
    const events = rows.slice(0, limit).map(fromRow);
    const last = events.at(-1);
    return { events, after: rows.length > limit && last ? `${last.at},${last.id}` : null };
  }

  /** What the first events say, as it is kept. */
  texts(attempt: string, limit: number): { event: string; text: string }[] {
    return prepared(
      this.db,
      "SELECT id AS event, data AS text FROM events WHERE attempt_id = ? AND lane IN ('step', 'console', 'network', 'body', 'note') ORDER BY at, id LIMIT ?",
    ).all(attempt, limit) as { event: string; text: string }[];
  }

  /** How many events of one lane an attempt has. */
  countOf(attempt: string, lane: Lane): number {
    return prepared(this.db, 'SELECT count(*) FROM events WHERE attempt_id = ? AND lane = ?')
      .pluck()
      .get(attempt, lane) as number;
  }

  /** The first events of some lanes, in time order. */
  ofLanes(attempt: string, wanted: readonly Lane[], limit: number): EvidenceEvent[] {
    return this.page(attempt, { lane: wanted, limit }).events;
  }

  /** When an event is to be looked at: what went with an exchange, when that was. */
  shownAt(attempt: string, event: EvidenceEvent): number {
    if (event.lane !== 'body') return event.at;
    const at = prepared(this.db, 'SELECT at FROM events WHERE attempt_id = ? AND id = ?')
      .pluck()
      .get(attempt, event.data.exchange) as number | undefined;
    return at ?? event.at;
  }

  /** What was sent and what came back with one exchange. */
  bodies(attempt: string, exchange: string): EvidenceEvent[] {
    const rows = prepared(
      this.db,
      "SELECT id, lane, kind, at, until, clock, data FROM events WHERE attempt_id = ? AND lane = 'body' AND json_extract(data, '$.exchange') = ? ORDER BY id",
    ).all(attempt, exchange) as Row[];
    return rows.map(fromRow);
  }

  /** What the bench needs first, as JSON; see `outlineJson`. */
  outline(attempt: string, also: readonly string[]): string {
    return outlineJson(this.db, attempt, also);
  }

  /** The events of a stretch of time, as JSON; see `stretchJson`. */
  stretch(attempt: string, from: number, until: number): string {
    return stretchJson(this.db, attempt, from, until, mostInSight * 3);
  }

  /** Replaces what an earlier analysis made, and the sentences of the steps. */
  replaceDerived(attempt: string, derived: readonly EvidenceEvent[], labels: Readonly<Record<string, string>>): void {
    prepared(this.db, 'DELETE FROM events WHERE attempt_id = ? AND derived = 1').run(attempt);
    if (derived.length) this.write(attempt, derived, true);
    const relabel = prepared(
      this.db,

      "UPDATE events SET data = json_set(data, '$.label', ?) WHERE attempt_id = ? AND id = ? AND json_extract(data, '$.label') <> ?",
    );
    for (const [id, label] of Object.entries(labels)) relabel.run(label, attempt, id, label);
  }

  /** Removes the events that show one of some blobs. @returns how many there were */
  removeBlobs(attempt: string, blobs: ReadonlySet<string>): number {
    const rows = prepared(
      this.db,
      "SELECT id, json_extract(data, '$.blob') AS blob FROM events WHERE attempt_id = ? AND lane IN ('screen', 'page') AND json_extract(data, '$.blob') IS NOT NULL",
    ).all(attempt) as { id: string; blob: string }[];
    const lost = rows.filter(({ blob }) => blobs.has(blob));
    for (const { id } of lost) prepared(this.db, 'DELETE FROM events WHERE attempt_id = ? AND id = ?').run(attempt, id);
    return lost.length;
  }

  /** Removes the events of one clock: those of a file that was moved. */
  removeClock(attempt: string, clock: string): void {
    prepared(this.db, 'DELETE FROM events WHERE attempt_id = ? AND clock = ?').run(attempt, clock);
  }

  /** Moves the events of one clock by some milliseconds. */
  shiftClock(attempt: string, clock: string, by: number): void {
    prepared(this.db, 'UPDATE events SET at = at + ?, until = until + ? WHERE attempt_id = ? AND clock = ?').run(
      by,
      by,
      attempt,
      clock,
    );
  }

  /** The first few events of some lanes that a test holds for, in time order. */
  search(
    attempt: string,
    wanted: readonly Lane[],
    holds: (event: EvidenceEvent) => boolean,
    most: number,
  ): EvidenceEvent[] {
    const out: EvidenceEvent[] = [];
    const rows = prepared(
      this.db,
      'SELECT id, lane, kind, at, until, clock, data FROM events WHERE attempt_id = ? AND lane IN (SELECT value FROM json_each(?)) ORDER BY at, id LIMIT 5000',
    ).iterate(attempt, JSON.stringify(wanted)) as IterableIterator<Row>;
    for (const row of rows) {
      const event = fromRow(row);
      if (holds(event)) out.push(event);
      if (out.length >= most) break;
    }
    return out;
  }
}
