-- Whether a build is put away: it stays as it is, and the bench shows it only where that is asked for.
ALTER TABLE build ADD COLUMN archived INTEGER NOT NULL DEFAULT 0;
