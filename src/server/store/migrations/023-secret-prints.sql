-- One-way forms of secrets that sessions declared, by which reports that come later are masked.
CREATE TABLE secret_prints (
  proof TEXT PRIMARY KEY,
  length INTEGER NOT NULL,
  start INTEGER NOT NULL,
  seen_at INTEGER NOT NULL
) WITHOUT ROWID;
CREATE INDEX secret_prints_by_age ON secret_prints (seen_at);
