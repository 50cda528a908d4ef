-- +goose Up
-- What a server makes of a device is a record of its own, for each server; the values of the device
-- move there when the database is next opened. Settings by their names.
CREATE TABLE register_entries (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  device TEXT NOT NULL REFERENCES devices (id) DEFERRABLE INITIALLY DEFERRED,
  server TEXT NOT NULL REFERENCES devices (id) DEFERRABLE INITIALLY DEFERRED, recognised_as TEXT, offered TEXT, admission TEXT,
  days TEXT, "from" TEXT, until TEXT, note TEXT
);
CREATE INDEX register_entries_home ON register_entries (household_id);
CREATE TABLE to_register AS SELECT id AS device, household_id, recognised_as, admission FROM devices WHERE recognised_as IS NOT NULL OR admission IS NOT NULL;
ALTER TABLE devices DROP COLUMN recognised_as;
ALTER TABLE devices DROP COLUMN admission;
CREATE TABLE settings (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  subject TEXT NOT NULL, name TEXT NOT NULL, menu TEXT, value TEXT, must_be TEXT, why TEXT, confirmed_at TEXT
);
CREATE INDEX settings_home ON settings (household_id);
ALTER TABLE requests ADD COLUMN answer TEXT NOT NULL DEFAULT '';
ALTER TABLE secrets ADD COLUMN segment TEXT REFERENCES segments (id) DEFERRABLE INITIALLY DEFERRED;
ALTER TABLE devices ADD COLUMN supply_amps REAL;
ALTER TABLE software ADD COLUMN paid_by TEXT;
ALTER TABLE software ADD COLUMN stops_unpaid TEXT;
ALTER TABLE paths ADD COLUMN no_folders INTEGER;
ALTER TABLE wishes ADD COLUMN device TEXT REFERENCES devices (id) DEFERRABLE INITIALLY DEFERRED;
ALTER TABLE attempts ADD COLUMN version INTEGER;
ALTER TABLE attempts ADD COLUMN as_of INTEGER;
ALTER TABLE issues ADD COLUMN test TEXT;
ALTER TABLE issues ADD COLUMN promise TEXT;
ALTER TABLE changes ADD COLUMN effect TEXT;
ALTER TABLE changes ADD COLUMN confirmed_at TEXT;
-- What homes are listed by is one value, made outside the write: its columns are declared in the program.
CREATE TABLE summaries_new (
  household_id TEXT PRIMARY KEY, code TEXT NOT NULL UNIQUE, name TEXT NOT NULL, custodian TEXT NOT NULL REFERENCES people (id),
  revision INTEGER NOT NULL, changed_at TEXT NOT NULL, offered_to TEXT NOT NULL, computed TEXT NOT NULL DEFAULT '{}', computed_as TEXT NOT NULL DEFAULT ''
);
INSERT INTO summaries_new (household_id, code, name, custodian, revision, changed_at, offered_to)
  SELECT household_id, code, name, custodian, revision, changed_at, offered_to FROM summaries;
DROP TABLE summaries;
ALTER TABLE summaries_new RENAME TO summaries;
CREATE INDEX summaries_custodian ON summaries (custodian);
CREATE INDEX summaries_name ON summaries (name COLLATE NOCASE, code);
CREATE INDEX summaries_changed ON summaries (changed_at, code);
-- What the firm knows beside its homes: one document for each table, with a version that rises.
CREATE TABLE firm_tables (name TEXT PRIMARY KEY, version INTEGER NOT NULL, body TEXT NOT NULL, changed_at TEXT NOT NULL, changed_by TEXT NOT NULL REFERENCES people (id));
