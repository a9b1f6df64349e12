-- What loggers read. A delivery is a file or a post that brought readings; it can be taken back whole.
CREATE TABLE delivery (
    no        INTEGER PRIMARY KEY,
    id        TEXT NOT NULL UNIQUE,
    who       TEXT NOT NULL REFERENCES card (id),
    source    TEXT NOT NULL,
    recorded  INTEGER NOT NULL,
    readings  INTEGER NOT NULL,
    taken_back    INTEGER,
    taken_back_by TEXT REFERENCES card (id),
    reason        TEXT
) STRICT;
-- A short number for each system that a logger reads.
CREATE TABLE sensed_system (
    no     INTEGER PRIMARY KEY,
    system TEXT NOT NULL UNIQUE REFERENCES card (id)
) STRICT;
-- The readings, a row a moment: in milliseconds, pH, mS/cm at 25 °C, °C, litres.
CREATE TABLE sensed (
    system      INTEGER NOT NULL,
    at          INTEGER NOT NULL,
    delivery    INTEGER NOT NULL,
    ph          REAL,
    ec          REAL,
    temperature REAL,
    litres      REAL,
    PRIMARY KEY (system, at, delivery)
) STRICT, WITHOUT ROWID;
-- What each day of a place's clock comes to. It can be made anew from the readings at any time.
CREATE TABLE sensed_day (
    system      TEXT NOT NULL REFERENCES card (id),
    day         TEXT NOT NULL,
    at          INTEGER NOT NULL,
    ph          REAL,
    ec          REAL,
    temperature REAL,
    litres      REAL,
    PRIMARY KEY (system, day, at)
) STRICT, WITHOUT ROWID;
-- Every word that stands in the index, once: what begins like a word that is looked for is looked up here, so that the
-- index is asked for whole words and gives the newest first without gathering all of them.
CREATE TABLE said_word (word TEXT PRIMARY KEY) STRICT, WITHOUT ROWID;
