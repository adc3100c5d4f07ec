CREATE TABLE build (
  id INTEGER PRIMARY KEY,
  slug TEXT NOT NULL UNIQUE,
  head INTEGER,
  made_at TEXT NOT NULL
) STRICT;

CREATE TABLE revision (
  id INTEGER PRIMARY KEY,
  build INTEGER NOT NULL REFERENCES build (id),
  parent INTEGER REFERENCES revision (id),
  act TEXT NOT NULL,
  at TEXT NOT NULL,
  document TEXT NOT NULL,
  sha256 TEXT NOT NULL
) STRICT;

CREATE INDEX revision_by_build ON revision (build, id);
CREATE INDEX revision_by_parent ON revision (parent, id);

CREATE TRIGGER revision_is_kept BEFORE UPDATE ON revision BEGIN SELECT RAISE(ABORT, 'a revision never changes'); END;
CREATE TRIGGER revision_stays BEFORE DELETE ON revision BEGIN SELECT RAISE(ABORT, 'a revision is never deleted'); END;

CREATE TABLE setting (name TEXT PRIMARY KEY, value TEXT NOT NULL) STRICT;
