-- Whom the builder buys from, and what each said last that he has.
CREATE TABLE supplier (
  name TEXT PRIMARY KEY,
  document TEXT NOT NULL,
  listed TEXT,
  at TEXT NOT NULL
) STRICT;
