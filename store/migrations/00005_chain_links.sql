-- +goose Up
CREATE TABLE chain_links (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  "from" TEXT NOT NULL REFERENCES devices (id) DEFERRABLE INITIALLY DEFERRED, "to" TEXT NOT NULL REFERENCES devices (id) DEFERRABLE INITIALLY DEFERRED,
  input TEXT, best_mode TEXT, copy_protection TEXT, sound_return TEXT, note TEXT
);
CREATE INDEX chain_links_home ON chain_links (household_id);
