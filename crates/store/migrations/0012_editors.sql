-- Who made a version of a card: a person of a place. Of what was written before, nobody knows.
ALTER TABLE card_version ADD COLUMN who TEXT;
