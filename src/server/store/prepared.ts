import type Database from 'better-sqlite3';

const kept = new WeakMap<Database.Database, Map<string, Database.Statement>>();

/** A statement made once for its text and used again: making one costs more than most of them take. */
export function prepared(db: Database.Database, sql: string): Database.Statement {
  let known = kept.get(db);
  if (!known) kept.set(db, (known = new Map()));
  let statement = known.get(sql);
  if (!statement) known.set(sql, (statement = db.prepare(sql)));
  return statement;
}
