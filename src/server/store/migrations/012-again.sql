-- A series that ends with its first failure.
ALTER TABLE series ADD COLUMN until_fails INTEGER NOT NULL DEFAULT 0;
ALTER TABLE series ADD COLUMN detail TEXT NOT NULL DEFAULT 'standard';
-- Tests run again: by their drills, or by a test command of the team's own.
CREATE TABLE agains (
  id TEXT PRIMARY KEY,
  -- Name of the command; null where drills are played.
  command TEXT,
  -- The run that what the command does belongs to.
  run_id TEXT,
  -- Ids of the tests, JSON.
  tests TEXT NOT NULL,
  times INTEGER NOT NULL,
  until_fails INTEGER NOT NULL,
  -- Series of the drills, JSON.
  series TEXT NOT NULL DEFAULT '[]',
  -- How each time that the command was run ended, JSON.
  ended TEXT NOT NULL DEFAULT '[]',
  -- The last of what the command wrote, masked.
  output TEXT NOT NULL DEFAULT '',
  -- How many characters before it are no longer kept.
  output_from INTEGER NOT NULL DEFAULT 0,
  state TEXT NOT NULL DEFAULT 'waiting',
  problem TEXT,
  created_at REAL NOT NULL
);
CREATE INDEX agains_by_time ON agains (created_at);
