-- What somebody wants to be told by mail. `whose` is an account, or a person where nobody signs in; `confirm` the hash of
-- what a letter to the address says, until somebody has opened it there.
CREATE TABLE reminder (
    whose     TEXT PRIMARY KEY,
    wish      TEXT NOT NULL,
    confirm   TEXT,
    confirmed INTEGER NOT NULL DEFAULT 0 CHECK (confirmed IN (0, 1)),
    asked     INTEGER NOT NULL
) STRICT;

-- What was told to whom: nothing is told twice.
CREATE TABLE reminded (
    whose TEXT NOT NULL,
    what  TEXT NOT NULL,
    at    INTEGER NOT NULL,
    PRIMARY KEY (whose, what)
) STRICT, WITHOUT ROWID;
