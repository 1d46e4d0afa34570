CREATE TABLE runs (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL UNIQUE,
  kind TEXT NOT NULL DEFAULT 'tests',       -- 'tests', or 'trials' for the plays of one series
  started_at REAL NOT NULL,                 -- epoch ms
  commit_id TEXT,
  branch TEXT
) STRICT;
CREATE INDEX runs_by_time ON runs (kind, started_at DESC);

CREATE TABLE tests (
  id TEXT PRIMARY KEY,
  suite TEXT NOT NULL,
  title TEXT NOT NULL,
  file TEXT,
  UNIQUE (suite, title)
) STRICT;

CREATE TABLE families (
  id TEXT PRIMARY KEY,
  fingerprint TEXT NOT NULL,
  sentence TEXT NOT NULL,
  first_at REAL NOT NULL
) STRICT;

CREATE TABLE attempts (
  id TEXT PRIMARY KEY,
  run_id TEXT NOT NULL REFERENCES runs (id) ON DELETE CASCADE,
  test_id TEXT NOT NULL REFERENCES tests (id),
  number INTEGER NOT NULL,
  outcome TEXT NOT NULL,
  state TEXT NOT NULL,
  environment TEXT NOT NULL,                -- JSON
  environment_key TEXT NOT NULL,
  started_at REAL NOT NULL,
  duration_ms REAL NOT NULL DEFAULT 0,
  message TEXT NOT NULL DEFAULT '',
  stack TEXT NOT NULL DEFAULT '',
  interrupted_by TEXT,
  labels TEXT NOT NULL DEFAULT '{}',        -- JSON: what the test said of itself, masked
  failure TEXT,                             -- JSON
  family_id TEXT REFERENCES families (id),
  undetermined INTEGER NOT NULL DEFAULT 1,
  analysis_version INTEGER NOT NULL DEFAULT 0,
  series_id TEXT
) STRICT;
CREATE INDEX attempts_by_run ON attempts (run_id, test_id, environment_key, number);
CREATE INDEX attempts_by_family ON attempts (family_id, started_at);
CREATE INDEX attempts_by_series ON attempts (series_id, number);
CREATE INDEX attempts_unsettled ON attempts (state) WHERE state <> 'ready';

CREATE TABLE events (
  attempt_id TEXT NOT NULL REFERENCES attempts (id) ON DELETE CASCADE,
  id TEXT NOT NULL,
  lane TEXT NOT NULL,
  kind TEXT NOT NULL,
  at REAL NOT NULL,                         -- ms from the attempt's start
  until REAL,
  clock TEXT NOT NULL,
  derived INTEGER NOT NULL DEFAULT 0,       -- made by the analysis, replaced when it runs again
  data TEXT NOT NULL,                       -- JSON
  PRIMARY KEY (attempt_id, id)
) STRICT, WITHOUT ROWID;
CREATE INDEX events_by_time ON events (attempt_id, at, id);

CREATE TABLE blobs (
  name TEXT PRIMARY KEY,                    -- SHA-256 of the content
  mime TEXT NOT NULL,
  size INTEGER NOT NULL
) STRICT;

CREATE TABLE clues (
  attempt_id TEXT NOT NULL REFERENCES attempts (id) ON DELETE CASCADE,
  position INTEGER NOT NULL,
  code TEXT NOT NULL,
  at REAL NOT NULL,
  until REAL,
  summary TEXT NOT NULL,
  strength REAL NOT NULL,
  evidence TEXT NOT NULL,                   -- JSON list of event ids
  PRIMARY KEY (attempt_id, position)
) STRICT, WITHOUT ROWID;

CREATE TABLE suspects (
  attempt_id TEXT NOT NULL REFERENCES attempts (id) ON DELETE CASCADE,
  position INTEGER NOT NULL,
  cause TEXT NOT NULL,
  probability REAL NOT NULL,
  pro TEXT NOT NULL,                        -- JSON list of clue positions
  con TEXT NOT NULL,
  PRIMARY KEY (attempt_id, position)
) STRICT, WITHOUT ROWID;

-- Every decision a person took, in order; the newest one that is not undone holds.
CREATE TABLE decisions (
  id INTEGER PRIMARY KEY,
  family_id TEXT NOT NULL REFERENCES families (id),
  at REAL NOT NULL,
  kind TEXT NOT NULL,                       -- 'confirm', 'clear', 'stand', 'note'
  cause TEXT,
  text TEXT NOT NULL DEFAULT '',
  undone INTEGER NOT NULL DEFAULT 0
) STRICT;
CREATE INDEX decisions_by_family ON decisions (family_id, id);

CREATE TABLE drills (
  id TEXT PRIMARY KEY,
  attempt_id TEXT,
  title TEXT NOT NULL,
  text TEXT NOT NULL,
  created_at REAL NOT NULL
) STRICT;

CREATE TABLE series (
  id TEXT PRIMARY KEY,
  drill_id TEXT NOT NULL REFERENCES drills (id),
  run_id TEXT NOT NULL REFERENCES runs (id),
  engine TEXT NOT NULL,
  trials INTEGER NOT NULL,
  stressors TEXT NOT NULL DEFAULT '[]',
  state TEXT NOT NULL,                      -- 'waiting', 'running', 'done', 'stopped', 'failed'
  problem TEXT,
  created_at REAL NOT NULL
) STRICT;
CREATE INDEX series_by_drill ON series (drill_id, created_at);
