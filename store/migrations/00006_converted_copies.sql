-- +goose Up
-- What is converted ahead of time, for which devices and into which form.
CREATE TABLE converted_copies (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  folder TEXT NOT NULL REFERENCES folders (id) DEFERRABLE INITIALLY DEFERRED, title TEXT NOT NULL, items INTEGER, "for" TEXT, "from" TEXT, "into" TEXT NOT NULL, state TEXT NOT NULL,
  "to" TEXT, gigabytes_before REAL, gigabytes_after REAL, done_on TEXT, note TEXT
);
CREATE INDEX converted_copies_home ON converted_copies (household_id);
