-- What failed lately, of all tests: what is to be mended first.
CREATE INDEX attempts_failed_at ON attempts (started_at) WHERE family_id IS NOT NULL AND series_id IS NULL;
-- By suite and environment what a run came to: JSON; kept with its summary.
ALTER TABLE runs ADD COLUMN parts TEXT;
