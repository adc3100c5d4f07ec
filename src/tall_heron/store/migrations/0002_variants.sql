ALTER TABLE build ADD COLUMN forked_from INTEGER REFERENCES revision (id);
