-- The clock of changes: every write takes the next tick, so that a reader can ask for what changed
-- since it last looked.
CREATE TABLE tick (
    only  INTEGER PRIMARY KEY CHECK (only = 1),
    value INTEGER NOT NULL
) STRICT;
INSERT INTO tick VALUES (1, 0);

-- What is set up: places, people, meters, systems, plantings. The newest version of each.
CREATE TABLE card (
    id        TEXT PRIMARY KEY,
    kind      TEXT NOT NULL CHECK (kind IN ('place', 'person', 'meter', 'system', 'planting')),
    parent    TEXT REFERENCES card (id),
    version   INTEGER NOT NULL,
    archived  INTEGER NOT NULL DEFAULT 0 CHECK (archived IN (0, 1)),
    body      TEXT NOT NULL,
    -- What it was made from, to know a repeated request from another one with the same id.
    made_from TEXT NOT NULL,
    changed   INTEGER NOT NULL
) STRICT;
CREATE INDEX card_by_parent ON card (parent);
CREATE INDEX card_by_change ON card (changed);

-- Every version that a card ever had.
CREATE TABLE card_version (
    card     TEXT NOT NULL REFERENCES card (id),
    version  INTEGER NOT NULL,
    archived INTEGER NOT NULL,
    body     TEXT NOT NULL,
    at       TEXT NOT NULL,
    PRIMARY KEY (card, version)
) STRICT, WITHOUT ROWID;

-- The log. Rows are added, never changed and never taken away.
CREATE TABLE entry (
    seq      INTEGER PRIMARY KEY AUTOINCREMENT,
    id       TEXT NOT NULL UNIQUE,
    system   TEXT NOT NULL REFERENCES card (id),
    at       INTEGER NOT NULL,
    recorded INTEGER NOT NULL,
    who      TEXT NOT NULL REFERENCES card (id),
    body     TEXT NOT NULL,
    -- An entry can be amended once; the amendment can be amended in its turn.
    amends   TEXT UNIQUE REFERENCES entry (id),
    reason   TEXT
) STRICT;
CREATE INDEX entry_by_system ON entry (system, at, seq);
CREATE TRIGGER entry_is_never_changed BEFORE UPDATE ON entry BEGIN SELECT RAISE(ABORT, 'the log is append-only'); END;
CREATE TRIGGER entry_is_never_erased BEFORE DELETE ON entry BEGIN SELECT RAISE(ABORT, 'the log is append-only'); END;

-- The folded state of each system: a cache that can be rebuilt from the log at any time.
CREATE TABLE fold (
    system  TEXT PRIMARY KEY REFERENCES card (id),
    state   TEXT NOT NULL,
    changed INTEGER NOT NULL
) STRICT;
CREATE INDEX fold_by_change ON fold (changed);

-- Visits half done.
CREATE TABLE draft (
    system  TEXT NOT NULL REFERENCES card (id),
    who     TEXT NOT NULL REFERENCES card (id),
    id      TEXT NOT NULL,
    version INTEGER NOT NULL,
    body    TEXT NOT NULL,
    at      TEXT NOT NULL,
    PRIMARY KEY (system, who)
) STRICT;
