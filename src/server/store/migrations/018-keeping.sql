-- How much is kept of each attempt that has evidence: 2 everything, 1 all but pictures and videos, 0 nothing but what was found.
CREATE TABLE kept (
  attempt_id TEXT PRIMARY KEY REFERENCES attempts (id) ON DELETE CASCADE,
  level INTEGER NOT NULL DEFAULT 2,
  bytes REAL NOT NULL,                      -- what its events take
  pinned INTEGER NOT NULL DEFAULT 0,
  let_go_at REAL,                           -- epoch ms
  why TEXT                                  -- 'term', 'one in', 'budget'
) STRICT;
CREATE INDEX kept_pinned ON kept (pinned) WHERE pinned = 1;

-- Which attempt shows which file.
CREATE TABLE blob_uses (
  attempt_id TEXT NOT NULL REFERENCES attempts (id) ON DELETE CASCADE,
  blob TEXT NOT NULL,
  shown INTEGER NOT NULL,                   -- 1 a picture or a video, 0 a document that was written out
  PRIMARY KEY (attempt_id, blob)
) STRICT, WITHOUT ROWID;
INSERT OR IGNORE INTO blob_uses (attempt_id, blob, shown)
  SELECT attempt_id, json_extract(data, '$.blob'), lane = 'screen' FROM events
  WHERE lane IN ('screen', 'page') AND json_extract(data, '$.blob') IS NOT NULL;
CREATE INDEX blob_uses_by_blob ON blob_uses (blob);
CREATE INDEX files_by_blob ON files (blob);

-- When a file was last taken in: what is being recorded now names it before anything else does.
ALTER TABLE blobs ADD COLUMN taken_at REAL NOT NULL DEFAULT 0;
