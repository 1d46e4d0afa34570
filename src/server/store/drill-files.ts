import type Database from 'better-sqlite3';

/** A file kept with a drill. */
export interface DrillFile {
  /** As the test typed it. */
  path: string;
  size: number;
}

/** Files that drills type into file fields. */
export class DrillFiles {
  constructor(private readonly db: Database.Database) {}

  /** One that is kept already stays as it was. */
  keep(drill: string, path: string, bytes: Buffer): void {
    this.db
      .prepare('INSERT OR IGNORE INTO drill_files (drill_id, path, bytes) VALUES (?, ?, ?)')
      .run(drill, path, bytes);
  }

  of(drill: string): DrillFile[] {
    return this.db
      .prepare('SELECT path, length(bytes) AS size FROM drill_files WHERE drill_id = ? ORDER BY path')
      .all(drill) as DrillFile[];
  }

  bytes(drill: string, path: string): Buffer | undefined {
    const row = this.db.prepare('SELECT bytes FROM drill_files WHERE drill_id = ? AND path = ?').get(drill, path);
    return (row as { bytes: Buffer } | undefined)?.bytes;
  }
}
