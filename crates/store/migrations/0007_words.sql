-- The log across all systems: by time, and by what an entry is found by. The words of what stands are in SQLite's own
-- full-text index, without their text; a row's number is its entry's time in milliseconds times 2^20, and the low bits of
-- its place in the log, so that the rows stand in order of time. It can be made anew from the log at any time.
CREATE INDEX entry_by_time ON entry (at, seq);
CREATE VIRTUAL TABLE entry_words USING fts5 (
    said,
    tokens,
    content = '',
    contentless_delete = 1,
    tokenize = 'unicode61 remove_diacritics 2',
    prefix = '2 3'
);
-- In which version entries stand there, and up to which place in the log.
CREATE TABLE words_kept (
    only    INTEGER PRIMARY KEY CHECK (only = 1),
    version INTEGER NOT NULL,
    upto    INTEGER NOT NULL
) STRICT;
INSERT INTO words_kept VALUES (1, 0, 0);
