-- +goose Up
-- What was changed in the firm's own tables (recipes, sheets, releases), by whom and when.
CREATE TABLE firm_changes (name TEXT NOT NULL, version INTEGER NOT NULL, changed_at TEXT NOT NULL, changed_by TEXT NOT NULL REFERENCES people (id), entries TEXT NOT NULL, PRIMARY KEY (name, version));
