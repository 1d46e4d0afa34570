-- A report may tell later what became of an attempt that was recorded: then the attempt is the report's, in its run and under
-- its name. What it was before is put back when the delivery is undone.
ALTER TABLE intake_touched ADD COLUMN run_id TEXT;
ALTER TABLE intake_touched ADD COLUMN test_id TEXT;
ALTER TABLE intake_touched ADD COLUMN number INTEGER;
ALTER TABLE intake_touched ADD COLUMN labels TEXT;
CREATE INDEX attempts_untold ON attempts (started_at) WHERE outcome = 'unreported' AND source = 'recorded' AND series_id IS NULL;
