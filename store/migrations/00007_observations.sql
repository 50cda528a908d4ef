-- +goose Up
ALTER TABLE devices ADD COLUMN udn TEXT;
ALTER TABLE devices ADD COLUMN host_name TEXT;
ALTER TABLE devices ADD COLUMN announces TEXT;
ALTER TABLE segments ADD COLUMN name_port INTEGER;
ALTER TABLE sources ADD COLUMN guide TEXT;
-- What looks at a home's network brought, for 90 days: no part of the dossier, taken over through the door.
CREATE TABLE gatherings (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id), ended_at TEXT NOT NULL, body TEXT NOT NULL
);
CREATE INDEX gatherings_home ON gatherings (household_id, ended_at);
-- What somebody said of observations: which device a host is, and what is not to be offered again
-- while the same is seen.
CREATE TABLE said_of_hosts (
  household_id TEXT NOT NULL REFERENCES household (id), what TEXT NOT NULL, value TEXT NOT NULL, by_person TEXT NOT NULL, at TEXT NOT NULL,
  PRIMARY KEY (household_id, what)
);
