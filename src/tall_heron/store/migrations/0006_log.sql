CREATE TABLE attachment (
  sha256 TEXT PRIMARY KEY,
  media TEXT NOT NULL,
  size INTEGER NOT NULL,
  at TEXT NOT NULL
) STRICT;

CREATE TABLE entry (
  id INTEGER PRIMARY KEY,
  build INTEGER NOT NULL REFERENCES build (id),
  number INTEGER NOT NULL,
  at TEXT NOT NULL,
  kind TEXT NOT NULL,
  text TEXT NOT NULL,
  before TEXT NOT NULL,
  sha256 TEXT NOT NULL UNIQUE,
  UNIQUE (build, number)
) STRICT;

CREATE TABLE frozen (
  sha256 TEXT PRIMARY KEY,
  text TEXT NOT NULL
) STRICT;

CREATE TRIGGER entry_follows BEFORE INSERT ON entry
  WHEN NEW.number <> (SELECT count(*) + 1 FROM entry WHERE build = NEW.build) OR NEW.before <> coalesce((SELECT sha256 FROM entry WHERE build = NEW.build ORDER BY number DESC LIMIT 1), '')
  BEGIN SELECT RAISE(ABORT, 'an entry follows on the one before it'); END;
CREATE TRIGGER entry_is_kept BEFORE UPDATE ON entry BEGIN SELECT RAISE(ABORT, 'an entry never changes'); END;
CREATE TRIGGER entry_stays BEFORE DELETE ON entry BEGIN SELECT RAISE(ABORT, 'an entry is never deleted'); END;
CREATE TRIGGER frozen_is_kept BEFORE UPDATE ON frozen BEGIN SELECT RAISE(ABORT, 'what was signed never changes'); END;
CREATE TRIGGER frozen_stays BEFORE DELETE ON frozen BEGIN SELECT RAISE(ABORT, 'what was signed is never deleted'); END;
CREATE TRIGGER attachment_is_kept BEFORE UPDATE ON attachment BEGIN SELECT RAISE(ABORT, 'a file never changes'); END;
CREATE TRIGGER attachment_stays BEFORE DELETE ON attachment BEGIN SELECT RAISE(ABORT, 'a file is never deleted'); END;
CREATE TRIGGER signed_build_stays BEFORE UPDATE OF head, slug ON build
  WHEN OLD.head IS NOT NULL AND EXISTS (SELECT 1 FROM entry WHERE build = OLD.id AND kind = 'sign-off')
  BEGIN SELECT RAISE(ABORT, 'a signed build never changes'); END;
CREATE TRIGGER signed_build_is_done BEFORE INSERT ON revision
  WHEN EXISTS (SELECT 1 FROM entry WHERE build = NEW.build AND kind = 'sign-off')
  BEGIN SELECT RAISE(ABORT, 'a signed build never changes'); END;
CREATE TRIGGER signed_build_is_kept BEFORE DELETE ON build
  WHEN EXISTS (SELECT 1 FROM entry WHERE build = OLD.id)
  BEGIN SELECT RAISE(ABORT, 'a build with a log is never deleted'); END;

-- INSERT OR REPLACE deletes without asking the triggers above.
CREATE TRIGGER revision_is_new BEFORE INSERT ON revision WHEN EXISTS (SELECT 1 FROM revision WHERE id = NEW.id) BEGIN SELECT RAISE(ABORT, 'a revision never changes'); END;
CREATE TRIGGER build_is_new BEFORE INSERT ON build
  WHEN EXISTS (SELECT 1 FROM build JOIN entry ON entry.build = build.id WHERE build.id = NEW.id OR build.slug = NEW.slug)
  BEGIN SELECT RAISE(ABORT, 'a build with a log never changes its place'); END;
CREATE TRIGGER frozen_is_one BEFORE INSERT ON frozen WHEN EXISTS (SELECT 1 FROM frozen WHERE sha256 = NEW.sha256 AND text <> NEW.text) BEGIN SELECT RAISE(ABORT, 'what was signed never changes'); END;
CREATE TRIGGER attachment_is_one BEFORE INSERT ON attachment
  WHEN EXISTS (SELECT 1 FROM attachment WHERE sha256 = NEW.sha256 AND (media <> NEW.media OR size <> NEW.size))
  BEGIN SELECT RAISE(ABORT, 'a file never changes'); END;
