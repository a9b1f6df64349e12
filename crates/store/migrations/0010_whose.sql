-- Visits and changes that were put away half done: a save that was still on its way does not bring them back.
CREATE TABLE put_away (id TEXT PRIMARY KEY) STRICT, WITHOUT ROWID;
-- Which file brought which visits. Several files may have brought one: it goes when the last of them is taken back.
CREATE TABLE delivery_entry (
    entry    TEXT NOT NULL REFERENCES entry (id),
    delivery INTEGER NOT NULL REFERENCES delivery (no),
    PRIMARY KEY (entry, delivery)
) STRICT, WITHOUT ROWID;
CREATE INDEX delivery_entry_by_delivery ON delivery_entry (delivery);
-- Until now they were known by the file's name and the moment.
INSERT INTO delivery_entry (entry, delivery)
    SELECT entry.id, delivery.no FROM delivery JOIN entry ON entry.recorded = delivery.recorded AND entry.device = delivery.source
    WHERE delivery.taken_back IS NULL;
-- How many of what it brought had been brought before.
ALTER TABLE delivery ADD COLUMN there INTEGER NOT NULL DEFAULT 0;
