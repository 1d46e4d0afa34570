-- Hypotheses in own words: which one a decision is about (the decision that set it up), and what it points at (JSON:
-- attempt, moment, event, what, series). Kinds since: 'suppose', 'speaks-for', 'speaks-against', 'strike', 'restore', 'moment', 'unpin'.
ALTER TABLE decisions ADD COLUMN about INTEGER;
ALTER TABLE decisions ADD COLUMN pin TEXT;
