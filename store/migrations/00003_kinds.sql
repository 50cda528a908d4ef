-- +goose Up
ALTER TABLE rooms ADD COLUMN power TEXT;
ALTER TABLE devices ADD COLUMN handling TEXT;
ALTER TABLE devices ADD COLUMN power_supply TEXT;
ALTER TABLE devices ADD COLUMN cooling TEXT;
ALTER TABLE devices ADD COLUMN medium TEXT;
ALTER TABLE devices ADD COLUMN remote TEXT;
ALTER TABLE devices ADD COLUMN standby TEXT;
ALTER TABLE devices ADD COLUMN wake TEXT;
ALTER TABLE devices ADD COLUMN wake_proven TEXT;
ALTER TABLE devices ADD COLUMN recognised_as TEXT;
ALTER TABLE devices ADD COLUMN offered_kinds TEXT;
ALTER TABLE devices ADD COLUMN admission TEXT;
ALTER TABLE segments ADD COLUMN lease_servers TEXT;
ALTER TABLE segments ADD COLUMN name_servers TEXT;
ALTER TABLE segments ADD COLUMN reservations TEXT;
ALTER TABLE segments ADD COLUMN multicast_to TEXT;
ALTER TABLE segments ADD COLUMN snooping TEXT;
ALTER TABLE segments ADD COLUMN querier TEXT;
ALTER TABLE interfaces ADD COLUMN address_by TEXT;
ALTER TABLE interfaces ADD COLUMN randomised TEXT;
ALTER TABLE interfaces ADD COLUMN medium TEXT;
ALTER TABLE interfaces ADD COLUMN port_mbps REAL;
ALTER TABLE interfaces ADD COLUMN facing TEXT;
CREATE TABLE outlets (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  room TEXT NOT NULL REFERENCES rooms (id) DEFERRABLE INITIALLY DEFERRED, name TEXT NOT NULL, cable TEXT,
  patched_to TEXT REFERENCES interfaces (id) DEFERRABLE INITIALLY DEFERRED, patching TEXT, tested_mbps REAL, tested_on TEXT,
  note TEXT
);
CREATE INDEX outlets_home ON outlets (household_id);
CREATE TABLE lines (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  name TEXT NOT NULL, kind TEXT NOT NULL, provider TEXT, router TEXT REFERENCES devices (id) DEFERRABLE INITIALLY DEFERRED,
  sold_down_mbps REAL, sold_up_mbps REAL, down_mbps REAL, up_mbps REAL, measured_at TEXT, outer_address TEXT, seen_address TEXT,
  outer_prefix TEXT, note TEXT
);
CREATE INDEX lines_home ON lines (household_id);
CREATE TABLE links (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  near TEXT NOT NULL REFERENCES interfaces (id) DEFERRABLE INITIALLY DEFERRED,
  far TEXT NOT NULL REFERENCES interfaces (id) DEFERRABLE INITIALLY DEFERRED, kind TEXT NOT NULL, rate_mbps REAL, band TEXT,
  channel INTEGER, outlet TEXT REFERENCES outlets (id) DEFERRABLE INITIALLY DEFERRED, note TEXT
);
CREATE INDEX links_home ON links (household_id);
CREATE TABLE readings (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  what TEXT NOT NULL, value REAL NOT NULL, subject TEXT, room TEXT REFERENCES rooms (id) DEFERRABLE INITIALLY DEFERRED,
  how TEXT NOT NULL, "at" TEXT NOT NULL, conditions TEXT
);
CREATE INDEX readings_home ON readings (household_id);
CREATE TABLE wishes (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  what TEXT NOT NULL, room TEXT REFERENCES rooms (id) DEFERRABLE INITIALLY DEFERRED, need TEXT, note TEXT
);
CREATE INDEX wishes_home ON wishes (household_id);
CREATE TABLE restrictions (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  name TEXT NOT NULL, room TEXT REFERENCES rooms (id) DEFERRABLE INITIALLY DEFERRED,
  device TEXT REFERENCES devices (id) DEFERRABLE INITIALLY DEFERRED, person TEXT, contents TEXT, days TEXT, "from" TEXT,
  until TEXT, set_where TEXT
);
CREATE INDEX restrictions_home ON restrictions (household_id);
CREATE TABLE secrets (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  name TEXT NOT NULL, kind TEXT NOT NULL, device TEXT REFERENCES devices (id) DEFERRABLE INITIALLY DEFERRED, note TEXT,
  sealed_as TEXT NOT NULL, sealed_at TEXT NOT NULL, shown_at TEXT, shown_to TEXT REFERENCES people (id)
);
CREATE INDEX secrets_home ON secrets (household_id);
CREATE TABLE accounts (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  name TEXT NOT NULL, login TEXT, secret TEXT REFERENCES secrets (id) DEFERRABLE INITIALLY DEFERRED, signed_in TEXT,
  seats INTEGER, note TEXT
);
CREATE INDEX accounts_home ON accounts (household_id);
CREATE TABLE software (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  device TEXT NOT NULL REFERENCES devices (id) DEFERRABLE INITIALLY DEFERRED, name TEXT NOT NULL, does TEXT NOT NULL,
  version TEXT, newest_here TEXT, newest_known TEXT, given_up INTEGER, licence TEXT, ends_on TEXT, seats INTEGER, starts TEXT,
  runs_as TEXT, network_move TEXT
);
CREATE INDEX software_home ON software (household_id);
ALTER TABLE sources ADD COLUMN account TEXT REFERENCES accounts (id) DEFERRABLE INITIALLY DEFERRED;
ALTER TABLE sources ADD COLUMN writable TEXT;
ALTER TABLE sources ADD COLUMN seats INTEGER;
ALTER TABLE sources ADD COLUMN converts TEXT;
ALTER TABLE sources ADD COLUMN budget_mpx REAL;
ALTER TABLE sources ADD COLUMN rate_cap_mbps REAL;
ALTER TABLE folders ADD COLUMN lies_on TEXT REFERENCES devices (id) DEFERRABLE INITIALLY DEFERRED;
ALTER TABLE folders ADD COLUMN locations TEXT;
ALTER TABLE folders ADD COLUMN readable_by TEXT;
ALTER TABLE folders ADD COLUMN writable_by TEXT;
ALTER TABLE folders ADD COLUMN indexed_at TEXT;
ALTER TABLE folders ADD COLUMN index_minutes INTEGER;
ALTER TABLE folders ADD COLUMN missing TEXT;
ALTER TABLE folders ADD COLUMN mix TEXT;
CREATE TABLE decoding_profiles (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  device TEXT NOT NULL REFERENCES devices (id) DEFERRABLE INITIALLY DEFERRED, entries TEXT, note TEXT
);
CREATE INDEX decoding_profiles_home ON decoding_profiles (household_id);
CREATE TABLE openings (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  device TEXT NOT NULL REFERENCES devices (id) DEFERRABLE INITIALLY DEFERRED, transport TEXT NOT NULL, port INTEGER NOT NULL,
  last_port INTEGER, direction TEXT NOT NULL, network_class TEXT, state TEXT NOT NULL, "for" TEXT
);
CREATE INDEX openings_home ON openings (household_id);
ALTER TABLE paths ADD COLUMN control_point TEXT REFERENCES devices (id) DEFERRABLE INITIALLY DEFERRED;
ALTER TABLE paths ADD COLUMN started_by TEXT;
CREATE TABLE together (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  name TEXT NOT NULL, paths TEXT, note TEXT
);
CREATE INDEX together_home ON together (household_id);
CREATE TABLE exceptions (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  test TEXT NOT NULL, subjects TEXT NOT NULL, why TEXT NOT NULL, until TEXT, "by" TEXT NOT NULL REFERENCES people (id),
  "at" TEXT NOT NULL
);
CREATE INDEX exceptions_home ON exceptions (household_id);
CREATE TABLE settings_copies (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  device TEXT NOT NULL REFERENCES devices (id) DEFERRABLE INITIALLY DEFERRED, taken_at TEXT NOT NULL, holds TEXT NOT NULL,
  "where" TEXT NOT NULL, version TEXT, note TEXT
);
CREATE INDEX settings_copies_home ON settings_copies (household_id);
CREATE TABLE changes (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  device TEXT NOT NULL REFERENCES devices (id) DEFERRABLE INITIALLY DEFERRED, what TEXT NOT NULL, "at" TEXT, owes TEXT, done TEXT,
  losses TEXT, settings_copy TEXT REFERENCES settings_copies (id) DEFERRABLE INITIALLY DEFERRED, note TEXT
);
CREATE INDEX changes_home ON changes (household_id);
CREATE TABLE visits (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  purpose TEXT NOT NULL, technician TEXT NOT NULL REFERENCES people (id), starts TEXT NOT NULL, minutes INTEGER, bring TEXT,
  bench TEXT, outcome TEXT, cancelled INTEGER
);
CREATE INDEX visits_home ON visits (household_id);
CREATE TABLE waits (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  what TEXT NOT NULL, subject TEXT, started_at TEXT, expected_at TEXT NOT NULL, looks_again TEXT NOT NULL REFERENCES people (id),
  ended_at TEXT, showed TEXT
);
CREATE INDEX waits_home ON waits (household_id);
CREATE TABLE due_dates (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  what TEXT NOT NULL, kind TEXT NOT NULL, "on" TEXT NOT NULL, subject TEXT, who TEXT REFERENCES people (id), done_at TEXT,
  note TEXT
);
CREATE INDEX due_dates_home ON due_dates (household_id);
CREATE TABLE attachments (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  subject TEXT NOT NULL, caption TEXT NOT NULL, sha256 TEXT NOT NULL, media_type TEXT NOT NULL, bytes INTEGER NOT NULL,
  width INTEGER, height INTEGER, file_name TEXT, "at" TEXT NOT NULL, "by" TEXT NOT NULL REFERENCES people (id)
);
CREATE INDEX attachments_home ON attachments (household_id);
CREATE TABLE sealed (id TEXT PRIMARY KEY, body BLOB NOT NULL, created_at TEXT NOT NULL);
ALTER TABLE summaries ADD COLUMN excepted INTEGER NOT NULL DEFAULT 0;
