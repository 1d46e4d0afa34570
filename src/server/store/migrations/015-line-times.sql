-- How long each line of the drill took in a trial of a proof that nothing was wrong in, ms, JSON.
ALTER TABLE trials ADD COLUMN line_ms TEXT;
