-- What a delivery changed of attempts that were there before it, as they were: its undoing puts them back.
CREATE TABLE intake_touched (
  intake_id TEXT NOT NULL,
  attempt_id TEXT NOT NULL,
  outcome TEXT NOT NULL,
  message TEXT NOT NULL,
  stack TEXT NOT NULL,
  started_at REAL NOT NULL,
  duration_ms REAL NOT NULL,
  PRIMARY KEY (intake_id, attempt_id)
) STRICT, WITHOUT ROWID;

-- Events it added to such attempts besides those of its files, which have a clock of their own.
CREATE TABLE intake_events (
  intake_id TEXT NOT NULL,
  attempt_id TEXT NOT NULL,
  event_id TEXT NOT NULL,
  PRIMARY KEY (intake_id, attempt_id, event_id)
) STRICT, WITHOUT ROWID;

ALTER TABLE intakes ADD COLUMN run_started_at REAL;  -- when the run had begun, before the delivery told otherwise
