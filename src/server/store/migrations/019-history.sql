-- What failed lately, of all tests: what is to be mended first.
CREATE INDEX attempts_failed_at ON attempts (started_at) WHERE family_id IS NOT NULL AND series_id IS NULL;
-- What each suite came to in each environment of a run; written with the run's summary, and as valid as that.
CREATE TABLE run_parts (
  run_id TEXT NOT NULL REFERENCES runs (id) ON DELETE CASCADE,
  suite TEXT NOT NULL,
  environment TEXT NOT NULL,
  ran INTEGER NOT NULL,
  failed INTEGER NOT NULL,
  flaky INTEGER NOT NULL,
  retry_ms REAL NOT NULL,                   -- machine time of all attempts but the first
  PRIMARY KEY (run_id, suite, environment)
) STRICT, WITHOUT ROWID;
