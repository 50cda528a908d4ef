-- +goose Up
-- At what time this Kaiku repeats the tests of a home every night, who asked for it, and what came of the last time. It belongs to the
-- machine that stands in the home, and so stands beside the dossier.
CREATE TABLE nights (
  household_id TEXT NOT NULL PRIMARY KEY, at TEXT NOT NULL, by_person TEXT NOT NULL, last TEXT NOT NULL DEFAULT ''
);
