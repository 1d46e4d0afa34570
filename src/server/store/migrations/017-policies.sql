-- What a page complained of in each attempt that has evidence, each thing once: JSON. Standing rules are held against it.
CREATE TABLE complaints (
  attempt_id TEXT PRIMARY KEY REFERENCES attempts (id) ON DELETE CASCADE,
  body TEXT NOT NULL
) STRICT;

-- What of an attempt is against the standing rules: JSON; null when nothing is.
ALTER TABLE attempts ADD COLUMN against TEXT;
DROP TRIGGER attempts_changed;
CREATE TRIGGER attempts_changed AFTER UPDATE OF outcome, state, family_id, number, environment_key, test_id, undetermined, against ON attempts BEGIN
  UPDATE runs SET summary = NULL WHERE id = NEW.run_id AND summary IS NOT NULL;
END;
UPDATE runs SET summary = NULL;

-- Every form the standing rules have had, with who set it and when; the last one holds.
CREATE TABLE rules_versions (
  number INTEGER PRIMARY KEY,
  at REAL NOT NULL,
  set_by TEXT NOT NULL,
  changed TEXT NOT NULL,                    -- JSON list of sentences
  value TEXT NOT NULL                       -- JSON
) STRICT;
INSERT INTO rules_versions (number, at, set_by, changed, value)
  SELECT 1, 0, '', '["as they were before versions were kept"]', value FROM rules WHERE name = 'standing';
DROP TABLE rules;
