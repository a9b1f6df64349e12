-- What is known of the file itself: an identity, so that a log which belongs to another file is told from
-- its own; whether it is a demo, which alone may be made anew; whether it is in use, so that a copy made
-- meanwhile knows that it is one; and the latest time at which anything was written to it.
PRAGMA application_id = 1299148915;
CREATE TABLE file_facts (
    only         INTEGER PRIMARY KEY CHECK (only = 1),
    identity     TEXT NOT NULL,
    demo         INTEGER NOT NULL DEFAULT 0 CHECK (demo IN (0, 1)),
    in_use       INTEGER NOT NULL DEFAULT 0 CHECK (in_use IN (0, 1)),
    last_written INTEGER NOT NULL
) STRICT;
INSERT INTO file_facts (only, identity, last_written)
VALUES (1, lower(hex(randomblob(16))), (SELECT coalesce(max(recorded), 0) FROM entry));
