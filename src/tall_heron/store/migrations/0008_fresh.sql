-- Whether what a build has at a revision came from its line alone; so far the act's words said so.
ALTER TABLE revision ADD COLUMN fresh INTEGER NOT NULL DEFAULT 0;
UPDATE revision SET fresh = 1 WHERE act = 'Sized to the brief' OR act LIKE 'Answered: %';
