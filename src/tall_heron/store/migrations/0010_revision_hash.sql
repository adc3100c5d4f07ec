-- The hash and the time of a revision without a walk over its document, which is a page of the
-- database each: how builds stand is counted on each place of the bench.
CREATE INDEX revision_hash ON revision (id, sha256, at);
