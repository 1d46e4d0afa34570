-- Drills that were made of evidence from elsewhere, and what a person has allowed them.
ALTER TABLE drills ADD COLUMN from_outside INTEGER NOT NULL DEFAULT 0;
ALTER TABLE drills ADD COLUMN confirmed TEXT;
UPDATE drills SET from_outside = 1
  WHERE attempt_id IN (SELECT id FROM attempts WHERE intake_id IS NOT NULL OR source <> 'recorded');
