-- +goose Up
ALTER TABLE summaries ADD COLUMN due_on TEXT NOT NULL DEFAULT '';
ALTER TABLE summaries ADD COLUMN wait_at TEXT NOT NULL DEFAULT '';
ALTER TABLE summaries ADD COLUMN review_on TEXT NOT NULL DEFAULT '';
CREATE INDEX summaries_custodian ON summaries (custodian);
CREATE INDEX summaries_name ON summaries (name COLLATE NOCASE, code);
CREATE INDEX summaries_changed ON summaries (changed_at, code);

CREATE TABLE findable (
  id INTEGER PRIMARY KEY, household_id TEXT NOT NULL, kind TEXT NOT NULL, record TEXT NOT NULL UNIQUE, label TEXT NOT NULL
);
CREATE INDEX findable_home ON findable (household_id);
CREATE VIRTUAL TABLE findable_text USING fts5 (words, keys, tokenize = "unicode61 remove_diacritics 2", prefix = '2 3');
INSERT INTO findable_text (findable_text, rank) VALUES ('secure-delete', 1);
ALTER TABLE household ADD COLUMN erased_at TEXT;
CREATE TABLE remembered (name TEXT PRIMARY KEY, value TEXT NOT NULL) WITHOUT ROWID;
