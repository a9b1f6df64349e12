-- Who may come in. An account is somebody who signs in; whom it is, at which places, are cards of people.
CREATE TABLE account (
    id       TEXT PRIMARY KEY,
    name     TEXT NOT NULL,
    -- The name without case, by which it is found.
    called   TEXT NOT NULL UNIQUE,
    owner    INTEGER NOT NULL CHECK (owner IN (0, 1)),
    people   TEXT NOT NULL,
    version  INTEGER NOT NULL,
    archived INTEGER NOT NULL DEFAULT 0 CHECK (archived IN (0, 1)),
    -- The password, as argon2id leaves it; none until one was chosen.
    secret   TEXT,
    changed  INTEGER NOT NULL
) STRICT;
CREATE INDEX account_by_change ON account (changed);

-- Devices on which somebody is signed in, each by the hash of what its cookie says.
CREATE TABLE session (
    id      TEXT PRIMARY KEY,
    token   TEXT NOT NULL UNIQUE,
    account TEXT NOT NULL REFERENCES account (id),
    device  TEXT NOT NULL,
    began   INTEGER NOT NULL,
    seen    INTEGER NOT NULL,
    ends    INTEGER NOT NULL
) STRICT;
CREATE INDEX session_by_account ON session (account);

-- Links that are good for one use: to make the first account, or to choose a password.
CREATE TABLE link (
    token   TEXT PRIMARY KEY,
    account TEXT REFERENCES account (id),
    ends    INTEGER NOT NULL,
    used    INTEGER NOT NULL DEFAULT 0 CHECK (used IN (0, 1))
) STRICT;

-- Classes that are open: devices join them with a short code, until they end.
CREATE TABLE class (
    id     TEXT PRIMARY KEY,
    place  TEXT NOT NULL REFERENCES card (id),
    code   TEXT NOT NULL UNIQUE,
    opened INTEGER NOT NULL,
    ends   INTEGER NOT NULL
) STRICT;

-- The devices of a class, each by the hash of what its cookie says.
CREATE TABLE class_device (
    token  TEXT PRIMARY KEY,
    class  TEXT NOT NULL REFERENCES class (id) ON DELETE CASCADE,
    device TEXT NOT NULL,
    joined INTEGER NOT NULL
) STRICT;
CREATE INDEX class_device_by_class ON class_device (class);

-- Whose a timer is that belongs to no system.
ALTER TABLE timer ADD COLUMN account TEXT;
