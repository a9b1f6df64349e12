-- Who made a version of a card, a person of a place; and the entry of the log that turned it, where it was one. Of what was
-- written before, nobody knows.
ALTER TABLE card_version ADD COLUMN who TEXT;
ALTER TABLE card_version ADD COLUMN entry TEXT;
