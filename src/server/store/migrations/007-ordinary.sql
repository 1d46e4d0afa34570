-- How many passing attempts, of all tests, told what is ordinary when a failing one was last analysed.
ALTER TABLE attempts ADD COLUMN ordinary INTEGER NOT NULL DEFAULT 0;
