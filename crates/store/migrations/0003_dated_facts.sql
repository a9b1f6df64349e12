-- Facts have dates: a version of a card says from when its changes hold; NULL is "it was always so",
-- which is what every edit of the earlier releases meant.
ALTER TABLE card_version ADD COLUMN holds_from TEXT;
ALTER TABLE card ADD COLUMN holds_from TEXT;

-- Bodies say in which shape they were written, so that older ones can be read.
ALTER TABLE card_version ADD COLUMN shape INTEGER NOT NULL DEFAULT 1;
ALTER TABLE card ADD COLUMN shape INTEGER NOT NULL DEFAULT 1;
ALTER TABLE draft ADD COLUMN shape INTEGER NOT NULL DEFAULT 1;
ALTER TABLE entry ADD COLUMN shape INTEGER NOT NULL DEFAULT 1;

-- Who acts has a device.
ALTER TABLE entry ADD COLUMN device TEXT;

-- The newest shape of an entry in this file, known without reading the log.
CREATE TABLE newest_shape (
    only  INTEGER PRIMARY KEY CHECK (only = 1),
    entry INTEGER NOT NULL
) STRICT;
INSERT INTO newest_shape VALUES (1, 1);
CREATE TRIGGER newer_shape AFTER INSERT ON entry WHEN NEW.shape > (SELECT entry FROM newest_shape)
BEGIN UPDATE newest_shape SET entry = NEW.shape; END;

-- What the log comes to, in parts: each can be made anew from the log at any time, and is when its
-- version is not the program's.
DROP TABLE fold;
CREATE TABLE projection (
    system  TEXT NOT NULL REFERENCES card (id),
    part    TEXT NOT NULL,
    version INTEGER NOT NULL,
    body    TEXT NOT NULL,
    changed INTEGER NOT NULL,
    PRIMARY KEY (system, part)
) STRICT, WITHOUT ROWID;
CREATE INDEX projection_by_change ON projection (changed);
