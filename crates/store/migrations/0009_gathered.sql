-- Up to which place in the log the index of words was gathered into one piece.
ALTER TABLE words_kept ADD COLUMN gathered INTEGER NOT NULL DEFAULT 0;
