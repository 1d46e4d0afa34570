-- What a failing step waits for and what would tell more, as the analysis found it: JSON; null where it found nothing.
ALTER TABLE attempts ADD COLUMN why TEXT;
