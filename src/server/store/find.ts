import type Database from 'better-sqlite3';
import { prepared } from './prepared.ts';

/** The words of one attempt by where they stand. */
export interface FindDoc {
  message: string;
  console: string;
  request: string;
  step: string;
  note: string;
}

export const findColumns = ['message', 'console', 'request', 'step', 'note'] as const;
export type FindColumn = (typeof findColumns)[number];

/** What somebody typed as a full-text question: every word must be there, the last may go on. */
export function questionOf(words: string): string | undefined {
  const terms = words.normalize('NFC').match(/[\p{L}\p{N}]+/gu);
  if (!terms) return undefined;
  return terms
    .slice(0, 12)
    .map((term, i) => `"${term}"${i === Math.min(terms.length, 12) - 1 && term.length > 1 ? '*' : ''}`)
    .join(' AND ');
}

/** Full text over attempts and tests. */
export class Find {
  constructor(private readonly db: Database.Database) {}

  /** Puts an attempt's words in place of what it had. Called inside a transaction. */
  index(attempt: string, doc: FindDoc): void {
    const known = prepared(this.db, 'SELECT position FROM find_docs WHERE attempt_id = ?').get(attempt) as
      { position: number } | undefined;
    if (known) prepared(this.db, 'DELETE FROM find_words WHERE rowid = ?').run(known.position);
    if (!findColumns.some((column) => doc[column])) return;
    const position =
      known?.position ??
      Number(prepared(this.db, 'INSERT INTO find_docs (attempt_id) VALUES (?)').run(attempt).lastInsertRowid);
    prepared(
      this.db,
      'INSERT INTO find_words (rowid, message, console, request, step, note) VALUES (?, ?, ?, ?, ?, ?)',
    ).run(position, doc.message, doc.console, doc.request, doc.step, doc.note);
  }

  /** Attempts in whose column the words are, newest taken in first. */
  attempts(column: FindColumn, question: string, limit: number): string[] {
    return (
      prepared(
        this.db,
        'SELECT d.attempt_id AS id FROM find_words w JOIN find_docs d ON d.position = w.rowid WHERE find_words MATCH ? ORDER BY w.rowid DESC LIMIT ?',
      ).all(`{${column}} : (${question})`, limit) as { id: string }[]
    ).map(({ id }) => id);
  }

  tests(question: string, limit: number): { id: string; suite: string; title: string }[] {
    return prepared(
      this.db,
      'SELECT test_id AS id, suite, title FROM find_tests WHERE find_tests MATCH ? ORDER BY rowid DESC LIMIT ?',
    ).all(question, limit) as { id: string; suite: string; title: string }[];
  }

  notes(words: string, limit: number): { familyId: string; text: string }[] {
    return prepared(
      this.db,
      "SELECT family_id AS familyId, text FROM decisions WHERE undone = 0 AND text LIKE ? ESCAPE '\\' ORDER BY id DESC LIMIT ?",
    ).all(`%${words.trim().replace(/[\\%_]/g, '\\$&')}%`, limit) as { familyId: string; text: string }[];
  }
}
