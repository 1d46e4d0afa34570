-- Attempts in few words, to hold hundreds against each other without reading their events.
CREATE TABLE sketches (
  attempt_id TEXT PRIMARY KEY REFERENCES attempts (id) ON DELETE CASCADE,
  test_id TEXT NOT NULL REFERENCES tests (id),
  version INTEGER NOT NULL,
  body TEXT NOT NULL                        -- JSON
) STRICT;
CREATE INDEX sketches_by_test ON sketches (test_id);

-- How many passing attempts a failing one was held against when it was last analysed.
ALTER TABLE attempts ADD COLUMN baseline INTEGER NOT NULL DEFAULT 0;
