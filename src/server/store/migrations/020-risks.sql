-- Why attempts that passed may not pass the next time: of the newest few of each test.
CREATE TABLE risks (
  attempt_id TEXT PRIMARY KEY REFERENCES attempts (id) ON DELETE CASCADE,
  test_id TEXT NOT NULL REFERENCES tests (id) ON DELETE CASCADE,
  started_at REAL NOT NULL,
  body TEXT NOT NULL                        -- a list
) STRICT;
CREATE INDEX risks_of_test ON risks (test_id, started_at);
-- What they make likely of each test.
CREATE TABLE outlooks (
  test_id TEXT PRIMARY KEY REFERENCES tests (id) ON DELETE CASCADE,
  score REAL NOT NULL,
  body TEXT NOT NULL
) STRICT, WITHOUT ROWID;
CREATE INDEX outlooks_by_score ON outlooks (score DESC, test_id);
CREATE TABLE outlook_kinds (
  test_id TEXT NOT NULL REFERENCES tests (id) ON DELETE CASCADE,
  kind TEXT NOT NULL,
  chance REAL NOT NULL,
  PRIMARY KEY (test_id, kind)
) STRICT, WITHOUT ROWID;
CREATE INDEX outlook_kinds_by_kind ON outlook_kinds (kind, chance);
CREATE INDEX attempts_failed_of_test ON attempts (test_id) WHERE family_id IS NOT NULL AND series_id IS NULL;
