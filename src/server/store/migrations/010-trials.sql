-- What a search is told, tries and came to: JSON; null in a series that does not search.
ALTER TABLE series ADD COLUMN search TEXT;
-- Each trial of a series: what it was under, in which phase of a search and why, where it was played, how it ended.
CREATE TABLE trials (
  series_id TEXT NOT NULL REFERENCES series (id) ON DELETE CASCADE,
  number INTEGER NOT NULL,
  stressors TEXT NOT NULL,
  phase TEXT,
  why TEXT,
  place TEXT,
  attempt_id TEXT,
  verdict TEXT NOT NULL DEFAULT 'pending',
  began_at REAL NOT NULL,
  PRIMARY KEY (series_id, number)
) WITHOUT ROWID;
