import type Database from 'better-sqlite3';
import { bodiless, familyId } from '../../core/families/fingerprint.ts';
import { FamilyIndex } from '../../core/families/near.ts';
import type { Decision, Pin } from '../../core/families/decision.ts';
import { verdictOf, type Verdict } from '../../core/families/verdict.ts';
import type { Family } from '../../core/records.ts';
import { prepared } from './prepared.ts';

interface Print {
  fingerprint: string;
  family_id: string;
  how: 'same' | 'near' | 'joined' | 'split';
}

/** A join or split by hand. */
export interface FamilyMove {
  id: number;
  at: number;
  kind: 'join' | 'split';
  familyId: string;
  intoId: string;
}

/** Families of failures, which fingerprints belong to them, and what people decided about them. */
export class Families {
  private index = new FamilyIndex();
  private seen = 0;
  private moves = -1;

  constructor(private readonly db: Database.Database) {}

  get(id: string): Family | undefined {
    const row = prepared(this.db, 'SELECT id, sentence, first_at AS firstAt FROM families WHERE id = ?').get(id) as
      Omit<Family, 'verdict'> | undefined;
    return row && { ...row, verdict: this.verdict(id) };
  }

  /** Families with attempts of test runs, those seen last first. @param test only those that it fell into */
  newest(limit = 500, test?: string): Family[] {
    const rows = prepared(
      this.db,
      `SELECT f.id, f.sentence, f.first_at AS firstAt,
         (SELECT max(a.started_at) FROM attempts a WHERE a.family_id = f.id AND a.series_id IS NULL) AS lastAt
       FROM families f
       WHERE lastAt IS NOT NULL${test === undefined ? '' : ' AND f.id IN (SELECT family_id FROM attempts WHERE test_id = ? AND series_id IS NULL)'}
       ORDER BY lastAt DESC LIMIT ?`,
    ).all(...(test === undefined ? [limit] : [test, limit])) as Omit<Family, 'verdict'>[];
    return rows.map((row) => ({ ...row, verdict: this.verdict(row.id) }));
  }

  /** In how many test runs the family has been seen. */
  runsOf(id: string): number {
    return (
      prepared(
        this.db,
        'SELECT count(DISTINCT run_id) AS n FROM attempts WHERE family_id = ? AND series_id IS NULL',
      ).get(id) as { n: number }
    ).n;
  }

  /** When it was last seen in another run before a time, epoch ms; null when never. */
  lastSeen(id: string, before: number, run: string): number | null {
    return (
      (
        prepared(
          this.db,
          'SELECT started_at AS at FROM attempts WHERE family_id = ? AND started_at < ? AND run_id <> ? AND series_id IS NULL ORDER BY started_at DESC LIMIT 1',
        ).get(id, before, run) as { at: number } | undefined
      )?.at ?? null
    );
  }

  /**
   * The family of a failure; made when there is none. Called inside a transaction.
   * What people joined or split goes before what is found.
   */
  of(print: string, test: string, sentence: string, at: number): string {
    this.refresh();
    const own = prepared(this.db, 'SELECT family_id AS id FROM fingerprints WHERE fingerprint IN (?, ?)').get(
      `${print}\n@${test}`,
      `${bodiless(print)}\n@${test}`,
    ) as { id: string } | undefined;
    const found = own ? undefined : (this.index.find(print) ?? this.asBefore(print));
    const id = own?.id ?? found?.family ?? familyId(print);
    prepared(
      this.db,
      'INSERT INTO families (id, fingerprint, sentence, first_at) VALUES (?, ?, ?, ?) ON CONFLICT (id) DO UPDATE SET first_at = min(first_at, excluded.first_at)',
    ).run(id, print, sentence, at);
    if (!own && (found?.how !== 'same' || bodiless(print) !== print)) {
      prepared(this.db, 'INSERT OR IGNORE INTO fingerprints (fingerprint, family_id, how) VALUES (?, ?, ?)').run(
        print,
        id,
        found?.how ?? 'same',
      );
    }
    return id;
  }

  /** The family that a failure in a test's own body had before its body told it from others': the first to ask keeps it. */
  private asBefore(print: string): { family: string; how: 'same' } | undefined {
    const plain = bodiless(print);
    const family = plain === print ? undefined : this.index.exactly(plain);
    if (family === undefined) return undefined;
    const taken = prepared(
      this.db,
      'SELECT 1 FROM fingerprints WHERE family_id = ? AND fingerprint <> ? AND substr(fingerprint, 1, length(?)) = ?',
    ).get(family, plain, plain, plain);
    return taken ? undefined : { family, how: 'same' };
  }

  /** Learns what was added since, also by the intake's own thread; starts anew after a join, a split or an undo. */
  private refresh(): void {
    const moves =
      (prepared(this.db, 'SELECT count(*) + sum(undone) AS n FROM family_moves').get() as { n: number | null }).n ?? 0;
    if (moves !== this.moves) {
      this.index = new FamilyIndex();
      this.seen = 0;
      this.moves = moves;
    }
    const rows = prepared(
      this.db,
      'SELECT position, fingerprint, family_id, how FROM fingerprints WHERE position > ? ORDER BY position',
    ).all(this.seen) as (Print & { position: number })[];
    for (const { position, fingerprint, family_id, how } of rows) {
      if (!fingerprint.includes('\n@')) this.index.add(fingerprint, family_id, how === 'split');
      this.seen = position;
    }
  }

  /** Makes one family of two; remembered for failures to come. The verdict of the one that stays holds. */
  join(from: string, into: string, at: number): FamilyMove {
    return this.db.transaction(() => {
      const prints = this.printsOf(from);
      const move = this.move('join', from, into, prints, at);
      for (const { fingerprint } of prints)
        prepared(this.db, "UPDATE fingerprints SET family_id = ?, how = 'joined' WHERE fingerprint = ?").run(
          into,
          fingerprint,
        );
      prepared(this.db, 'UPDATE attempts SET family_id = ? WHERE family_id = ?').run(into, from);
      return move;
    })();
  }

  /**
   * Splits one test's failures, or those of one fingerprint, off a family; remembered likewise.
   * @returns undefined when the attempt has no family, or the family would be left empty
   */
  split(attempt: string, by: 'test' | 'fingerprint', at: number): FamilyMove | undefined {
    return this.db.transaction(() => {
      const row = prepared(this.db, 'SELECT family_id, fingerprint, test_id FROM attempts WHERE id = ?').get(
        attempt,
      ) as { family_id: string | null; fingerprint: string | null; test_id: string } | undefined;
      if (!row?.family_id || !row.fingerprint) return undefined;
      const { family_id: from, fingerprint, test_id: test } = row;
      const [where, value] = by === 'test' ? ['test_id = ?', test] : ['fingerprint = ?', fingerprint];
      const going = this.db
        .prepare(`SELECT DISTINCT fingerprint FROM attempts WHERE family_id = ? AND ${where}`)
        .all(from, value) as { fingerprint: string }[];
      const staying = this.db
        .prepare(`SELECT count(*) AS n FROM attempts WHERE family_id = ? AND NOT (${where})`)
        .get(from, value) as { n: number };
      if (staying.n === 0) return undefined;
      const keys = going.map((one) => (by === 'test' ? `${one.fingerprint}\n@${test}` : one.fingerprint));
      const family = this.get(from)!;
      const into = familyId(`${from}\n${keys[0]!}`);
      const sentence = (
        prepared(this.db, 'SELECT failure FROM attempts WHERE id = ?').get(attempt) as { failure: string | null }
      ).failure;
      prepared(this.db, 'INSERT OR IGNORE INTO families (id, fingerprint, sentence, first_at) VALUES (?, ?, ?, ?)').run(
        into,
        keys[0],
        sentence ? (JSON.parse(sentence) as { sentence: string }).sentence : family.sentence,
        family.firstAt,
      );
      const before = keys.map(
        (key) =>
          prepared(this.db, 'SELECT fingerprint, family_id, how FROM fingerprints WHERE fingerprint = ?').get(key) as
            Print | undefined,
      );
      const move = this.move(
        'split',
        from,
        into,
        keys.map((key, i) => before[i] ?? { fingerprint: key, family_id: '', how: 'split' }),
        at,
      );
      for (const key of keys)
        prepared(
          this.db,
          "INSERT INTO fingerprints (fingerprint, family_id, how) VALUES (?, ?, 'split') ON CONFLICT (fingerprint) DO UPDATE SET family_id = excluded.family_id, how = 'split'",
        ).run(key, into);
      this.db.prepare(`UPDATE attempts SET family_id = ? WHERE family_id = ? AND ${where}`).run(into, from, value);
      return move;
    })();
  }

  private printsOf(family: string): Print[] {
    return prepared(this.db, 'SELECT fingerprint, family_id, how FROM fingerprints WHERE family_id = ?').all(
      family,
    ) as Print[];
  }

  private move(kind: FamilyMove['kind'], from: string, into: string, prints: Print[], at: number): FamilyMove {
    const attempts =
      kind === 'join'
        ? (prepared(this.db, 'SELECT id FROM attempts WHERE family_id = ?').all(from) as { id: string }[]).map(
            ({ id }) => id,
          )
        : [];
    const { lastInsertRowid } = prepared(
      this.db,
      'INSERT INTO family_moves (at, kind, family_id, into_id, fingerprints) VALUES (?, ?, ?, ?, ?)',
    ).run(at, kind, from, into, JSON.stringify({ prints, attempts }));
    return { id: Number(lastInsertRowid), at, kind, familyId: from, intoId: into };
  }

  /** Takes a join or split back exactly; gives it, or undefined when it is none or already taken back. */
  undoMove(id: number): FamilyMove | undefined {
    return this.db.transaction(() => {
      const row = prepared(
        this.db,
        'SELECT at, kind, family_id, into_id, fingerprints FROM family_moves WHERE id = ? AND undone = 0',
      ).get(id) as
        { at: number; kind: FamilyMove['kind']; family_id: string; into_id: string; fingerprints: string } | undefined;
      if (!row) return undefined;
      const { prints, attempts } = JSON.parse(row.fingerprints) as { prints: Print[]; attempts: string[] };
      for (const { fingerprint, family_id, how } of prints) {
        if (!family_id) prepared(this.db, 'DELETE FROM fingerprints WHERE fingerprint = ?').run(fingerprint);
        else
          prepared(this.db, 'UPDATE fingerprints SET family_id = ?, how = ? WHERE fingerprint = ?').run(
            family_id,
            how,
            fingerprint,
          );
      }
      if (row.kind === 'split')
        prepared(this.db, 'UPDATE attempts SET family_id = ? WHERE family_id = ?').run(row.family_id, row.into_id);
      else
        for (const attempt of attempts)
          prepared(this.db, 'UPDATE attempts SET family_id = ? WHERE id = ?').run(row.family_id, attempt);
      prepared(this.db, 'UPDATE family_moves SET undone = 1 WHERE id = ?').run(id);
      return { id, at: row.at, kind: row.kind, familyId: row.family_id, intoId: row.into_id };
    })();
  }

  /** Joins and splits that a family took part in and that are not taken back, newest first. */
  movesOf(family: string): FamilyMove[] {
    return prepared(
      this.db,
      'SELECT id, at, kind, family_id AS familyId, into_id AS intoId FROM family_moves WHERE undone = 0 AND (family_id = ? OR into_id = ?) ORDER BY id DESC',
    ).all(family, family) as FamilyMove[];
  }

  /** @param made what was decided, without what is known of it here */
  decide(family: string, at: number, made: Pick<Decision, 'kind'> & Partial<Decision>): Verdict {
    const { kind, cause = null, text = '', until = null, about = null, pin = null } = made;
    this.db
      .prepare(
        'INSERT INTO decisions (family_id, at, kind, cause, text, until, about, pin) VALUES (?, ?, ?, ?, ?, ?, ?, ?)',
      )
      .run(family, at, kind, cause, text, until, about, pin && JSON.stringify(pin));
    return this.verdict(family);
  }

  /** The cause that each judged family is confirmed to have, and since when. */
  confirmed(): { cause: string; at: number }[] {
    const families = prepared(this.db, "SELECT DISTINCT family_id FROM decisions WHERE kind = 'confirm' AND undone = 0")
      .pluck()
      .all() as string[];
    return families.flatMap((family) => {
      const { confirmed } = this.verdict(family);
      if (!confirmed) return [];
      const at = prepared(
        this.db,
        "SELECT max(at) FROM decisions WHERE family_id = ? AND kind = 'confirm' AND undone = 0",
      )
        .pluck()
        .get(family) as number;
      return [{ cause: confirmed, at }];
    });
  }

  /** Takes the newest decision back; gives it, or undefined when there is none. */
  undo(family: string): Decision | undefined {
    const last = this.verdict(family).last;
    if (!last) return undefined;
    this.db.prepare('UPDATE decisions SET undone = 1 WHERE id = ?').run(last.id);
    return last;
  }

  verdict(family: string): Verdict {
    const rows = prepared(
      this.db,
      'SELECT id, family_id AS familyId, at, kind, cause, text, until, about, pin FROM decisions WHERE family_id = ? AND undone = 0 ORDER BY id',
    ).all(family) as (Omit<Decision, 'pin'> & { pin: string | null })[];
    const verdict = verdictOf(
      rows.map((row) => ({ ...row, pin: row.pin && (JSON.parse(row.pin) as Pin) }) as Decision),
    );
    if (verdict.state === 'mended') verdict.cameBack = this.seenSince(family, verdict.since!);
    return verdict;
  }

  /** The first attempt of a test run that failed so after a time. */
  private seenSince(family: string, at: number): Verdict['cameBack'] {
    const row = prepared(
      this.db,
      `SELECT a.started_at AS at, a.id AS attempt, r.name AS run, r.id AS runId, r.commit_id AS "commit"
       FROM attempts a JOIN runs r ON r.id = a.run_id
       WHERE a.family_id = ? AND a.started_at > ? AND a.series_id IS NULL ORDER BY a.started_at LIMIT 1`,
    ).get(family, at) as Verdict['cameBack'] | undefined;
    return row ?? null;
  }
}
