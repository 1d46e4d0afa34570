-- What other runners left behind: each delivery, and each file in it with where it was placed and why.
CREATE TABLE intakes (
  id TEXT PRIMARY KEY,
  run_id TEXT REFERENCES runs (id) ON DELETE CASCADE,
  made_run INTEGER NOT NULL DEFAULT 0,      -- the run is of this delivery, and goes with it when it is undone
  state TEXT NOT NULL,                      -- 'reading', 'done', 'failed'
  started_at REAL NOT NULL,
  result TEXT                               -- JSON, what the caller was told
) STRICT;

CREATE TABLE files (
  id TEXT PRIMARY KEY,
  intake_id TEXT REFERENCES intakes (id) ON DELETE CASCADE,
  run_id TEXT NOT NULL REFERENCES runs (id) ON DELETE CASCADE,
  name TEXT NOT NULL,
  kind TEXT NOT NULL,                       -- 'video', 'picture', 'log', 'har', 'trace', 'cues', 'markup', 'text'
  blob TEXT NOT NULL,                       -- the evidence itself: a picture or video, or its events as JSON
  size INTEGER NOT NULL,
  facts TEXT NOT NULL,                      -- JSON: times, size, what it speaks of
  state TEXT NOT NULL,                      -- 'placed', 'spread' over several attempts, 'waiting', 'put aside'
  attempt_id TEXT REFERENCES attempts (id) ON DELETE SET NULL,
  score REAL NOT NULL DEFAULT 0,
  reasons TEXT NOT NULL DEFAULT '[]',       -- JSON list of sentences
  candidates TEXT NOT NULL DEFAULT '[]',    -- JSON: other attempts it could belong to
  placed_by TEXT NOT NULL DEFAULT '',       -- 'report', 'evidence', 'hand'
  offset_ms REAL,                           -- its clock against the attempt's
  offset_within REAL,                       -- ± ms; null when unknown
  offset_how TEXT NOT NULL DEFAULT ''
) STRICT;
CREATE INDEX files_by_run ON files (run_id, state);
CREATE INDEX files_by_attempt ON files (attempt_id);
CREATE UNIQUE INDEX files_once ON files (run_id, name, blob);

ALTER TABLE attempts ADD COLUMN intake_id TEXT;
ALTER TABLE attempts ADD COLUMN source TEXT NOT NULL DEFAULT 'recorded';  -- 'recorded', 'imported', 'streamed'
ALTER TABLE attempts ADD COLUMN fingerprint TEXT;
CREATE INDEX attempts_by_intake ON attempts (intake_id) WHERE intake_id IS NOT NULL;
-- Most attempts have no family and no series; their indexes need not hold them.
DROP INDEX attempts_by_family;
CREATE INDEX attempts_by_family ON attempts (family_id, started_at) WHERE family_id IS NOT NULL;
CREATE INDEX attempts_family_runs ON attempts (family_id, run_id) WHERE family_id IS NOT NULL AND series_id IS NULL;
CREATE INDEX attempts_family_seen ON attempts (family_id, started_at, run_id) WHERE family_id IS NOT NULL AND series_id IS NULL;
DROP INDEX attempts_by_series;
CREATE INDEX attempts_by_series ON attempts (series_id, number) WHERE series_id IS NOT NULL;
CREATE INDEX attempts_by_test ON attempts (test_id, started_at);
CREATE INDEX attempts_stale ON attempts (analysis_version) WHERE state = 'ready';

-- What a run's band shows, kept until an attempt of it changes.
ALTER TABLE runs ADD COLUMN summary TEXT;
CREATE TRIGGER attempts_added AFTER INSERT ON attempts BEGIN
  UPDATE runs SET summary = NULL WHERE id = NEW.run_id AND summary IS NOT NULL;
END;
CREATE TRIGGER attempts_changed AFTER UPDATE OF outcome, state, family_id, number, environment_key, test_id, undetermined ON attempts BEGIN
  UPDATE runs SET summary = NULL WHERE id = NEW.run_id AND summary IS NOT NULL;
END;
CREATE TRIGGER attempts_removed AFTER DELETE ON attempts BEGIN
  UPDATE runs SET summary = NULL WHERE id = OLD.run_id AND summary IS NOT NULL;
END;

-- Which fingerprint belongs to which family; 'by hand' ones are remembered over everything found.
CREATE TABLE fingerprints (
  position INTEGER PRIMARY KEY,
  fingerprint TEXT NOT NULL UNIQUE,         -- followed by a line with the test's id when one test was split off
  family_id TEXT NOT NULL REFERENCES families (id),
  how TEXT NOT NULL                         -- 'same', 'near', 'joined', 'split'
) STRICT;
CREATE TABLE family_moves (
  id INTEGER PRIMARY KEY,
  at REAL NOT NULL,
  kind TEXT NOT NULL,                       -- 'join', 'split'
  family_id TEXT NOT NULL,                  -- where it was
  into_id TEXT NOT NULL,                    -- where it went
  fingerprints TEXT NOT NULL,               -- JSON: each with how it stood before
  undone INTEGER NOT NULL DEFAULT 0
) STRICT;

INSERT INTO fingerprints (fingerprint, family_id, how) SELECT fingerprint, id, 'same' FROM families;

-- Words to attempts. One document an attempt; the events themselves tell the moment.
CREATE TABLE find_docs (position INTEGER PRIMARY KEY, attempt_id TEXT NOT NULL UNIQUE) STRICT;
CREATE VIRTUAL TABLE find_words USING fts5 (
  message, console, request, step, note,
  content = '', contentless_delete = 1, detail = 'column', prefix = '3', tokenize = "unicode61 remove_diacritics 2"
);
CREATE VIRTUAL TABLE find_tests USING fts5 (
  title, suite, test_id UNINDEXED, detail = 'column', prefix = '3', tokenize = "unicode61 remove_diacritics 2"
);
INSERT INTO find_tests (title, suite, test_id) SELECT title, suite, id FROM tests;
CREATE TRIGGER tests_found AFTER INSERT ON tests BEGIN
  INSERT INTO find_tests (title, suite, test_id) VALUES (NEW.title, NEW.suite, NEW.id);
END;

-- Standing rules of the workspace: own and library code, patterns to mask.
CREATE TABLE rules (name TEXT PRIMARY KEY, value TEXT NOT NULL) STRICT;
