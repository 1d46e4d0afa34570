-- Attempts of one run in time order: what ran beside an attempt, and right before it.
CREATE INDEX attempts_by_run_time ON attempts (run_id, started_at);
