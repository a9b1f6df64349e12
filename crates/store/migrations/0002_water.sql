-- no-transaction
-- Products and recipes join what is set up. A CHECK cannot be changed in place, so the table is made
-- anew; foreign keys rest meanwhile, as SQLite asks for that.
PRAGMA foreign_keys = OFF;
BEGIN;
CREATE TABLE card_new (
    id        TEXT PRIMARY KEY,
    kind      TEXT NOT NULL CHECK (kind IN ('place', 'person', 'meter', 'system', 'planting', 'product', 'recipe')),
    parent    TEXT REFERENCES card_new (id),
    version   INTEGER NOT NULL,
    archived  INTEGER NOT NULL DEFAULT 0 CHECK (archived IN (0, 1)),
    body      TEXT NOT NULL,
    made_from TEXT NOT NULL,
    changed   INTEGER NOT NULL
) STRICT;
INSERT INTO card_new SELECT id, kind, parent, version, archived, body, made_from, changed FROM card;
DROP TABLE card;
ALTER TABLE card_new RENAME TO card;
CREATE INDEX card_by_parent ON card (parent);
CREATE INDEX card_by_change ON card (changed);

-- States hold more than they did: they are made anew from the log when the file is next opened.
DELETE FROM fold;

-- What is being waited for. Kept here, so that every device shows it and a reload loses nothing.
CREATE TABLE timer (
    id        TEXT PRIMARY KEY,
    system    TEXT REFERENCES card (id),
    what      TEXT NOT NULL,
    label     TEXT NOT NULL,
    started   INTEGER NOT NULL,
    ends      INTEGER NOT NULL,
    dismissed INTEGER
) STRICT;
CREATE INDEX timer_by_end ON timer (dismissed, ends);

-- A reservoir change under way: one at a system, left and taken up by whoever is there.
CREATE TABLE change_run (
    system  TEXT PRIMARY KEY REFERENCES card (id),
    id      TEXT NOT NULL,
    who     TEXT NOT NULL REFERENCES card (id),
    version INTEGER NOT NULL,
    body    TEXT NOT NULL,
    started INTEGER NOT NULL,
    at      INTEGER NOT NULL
) STRICT;
COMMIT;
PRAGMA foreign_keys = ON;
