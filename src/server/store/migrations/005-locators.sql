-- Locators a test looked with lately: the next attempt has them watched from its start.
CREATE TABLE locators (
  test_id TEXT NOT NULL REFERENCES tests (id),
  key TEXT NOT NULL,                        -- locatorKey
  locator TEXT NOT NULL,                    -- JSON
  position INTEGER NOT NULL,                -- among those of the attempt that used it last
  used_at REAL NOT NULL,                    -- when that attempt started
  PRIMARY KEY (test_id, key)
) STRICT, WITHOUT ROWID;
