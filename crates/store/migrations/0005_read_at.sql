-- When the water of a visit half done was read. What is poured before the visit is closed comes after that.
ALTER TABLE draft ADD COLUMN read_at TEXT;
