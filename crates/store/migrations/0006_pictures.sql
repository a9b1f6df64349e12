-- Pictures stand in the same file, so that one backup holds all. They are encoded anew before they come here: no
-- place, no camera, no name is in them.
CREATE TABLE picture (
    id TEXT PRIMARY KEY,
    system TEXT NOT NULL REFERENCES card (id),
    at INTEGER NOT NULL,
    recorded INTEGER NOT NULL,
    who TEXT NOT NULL,
    ports TEXT,
    note TEXT,
    width INTEGER NOT NULL,
    height INTEGER NOT NULL,
    bytes INTEGER NOT NULL,
    small BLOB NOT NULL,
    image BLOB NOT NULL
) STRICT;
CREATE INDEX picture_system ON picture (system, at DESC);
