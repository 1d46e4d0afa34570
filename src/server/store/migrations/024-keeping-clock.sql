-- When the rules of keeping were looked after last: a clock that jumps is seen by it.
CREATE TABLE keeping_clock (id INTEGER PRIMARY KEY CHECK (id = 1), at INTEGER NOT NULL);
