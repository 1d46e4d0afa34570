-- Deliveries that are sent file by file. What has come of one lies sealed in the folder “deliveries”; its names and fields,
-- which are not masked, are only ever in memory: whoever goes on tells them again.
CREATE TABLE deliveries (
  id TEXT PRIMARY KEY,
  salt BLOB NOT NULL,
  files INTEGER NOT NULL,
  size REAL NOT NULL,
  -- receiving, taking, done, failed
  state TEXT NOT NULL,
  begun_at REAL NOT NULL,
  heard_at REAL NOT NULL,
  -- What came of it, masked, JSON.
  result TEXT,
  problem TEXT
);
CREATE TABLE delivery_parts (
  delivery_id TEXT NOT NULL REFERENCES deliveries (id) ON DELETE CASCADE,
  number INTEGER NOT NULL,
  have REAL NOT NULL,
  PRIMARY KEY (delivery_id, number)
) WITHOUT ROWID;
