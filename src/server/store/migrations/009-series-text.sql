-- What a series played: its drill may be changed afterwards. Null in series that were played before this was kept.
ALTER TABLE series ADD COLUMN text TEXT;
