-- Files whose paths a drill types into file fields, as they were when it was made: tests write theirs to folders that go.
CREATE TABLE drill_files (
  drill_id TEXT NOT NULL REFERENCES drills (id) ON DELETE CASCADE,
  path TEXT NOT NULL,
  bytes BLOB NOT NULL,
  PRIMARY KEY (drill_id, path)
) STRICT;
