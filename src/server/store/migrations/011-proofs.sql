-- What a proof plays: the remedy and the drill with it in, JSON; null in a series that proves nothing.
ALTER TABLE series ADD COLUMN proof TEXT;
-- Provoke, mend, prove, as one: the search, then a proof for each remedy that was tried, in their order.
CREATE TABLE mendings (
  id TEXT PRIMARY KEY,
  attempt_id TEXT NOT NULL,
  drill_id TEXT NOT NULL REFERENCES drills (id) ON DELETE CASCADE,
  engine TEXT NOT NULL,
  trials INTEGER NOT NULL,
  search_id TEXT NOT NULL,
  -- Ids of proofs, JSON.
  proofs TEXT NOT NULL DEFAULT '[]',
  state TEXT NOT NULL DEFAULT 'running',
  problem TEXT,
  -- How it ended, in words.
  ended TEXT,
  created_at REAL NOT NULL
);
CREATE INDEX mendings_by_attempt ON mendings (attempt_id, created_at);
