-- +goose Up
CREATE TABLE people (
  id TEXT PRIMARY KEY, login TEXT NOT NULL UNIQUE, name TEXT NOT NULL,
  role TEXT NOT NULL CHECK (role IN ('coordinator', 'lead', 'technician', 'observer')),
  password_hash TEXT NOT NULL, suspended_at TEXT, created_at TEXT NOT NULL
);
CREATE TABLE sessions (
  hash TEXT PRIMARY KEY, person_id TEXT NOT NULL REFERENCES people (id),
  name TEXT NOT NULL, created_at TEXT NOT NULL, expires_at TEXT NOT NULL
);
CREATE INDEX sessions_person ON sessions (person_id);

CREATE TABLE summaries (
  household_id TEXT PRIMARY KEY, code TEXT NOT NULL UNIQUE, name TEXT NOT NULL, custodian TEXT NOT NULL REFERENCES people (id),
  revision INTEGER NOT NULL, changed_at TEXT NOT NULL, required INTEGER NOT NULL, proven INTEGER NOT NULL, marginal INTEGER NOT NULL,
  failed INTEGER NOT NULL, stale INTEGER NOT NULL, untried INTEGER NOT NULL, blockers INTEGER NOT NULL, open_issues INTEGER NOT NULL,
  offered_to TEXT NOT NULL, returned_to TEXT NOT NULL
);
CREATE TABLE journal (
  household_id TEXT NOT NULL, revision INTEGER NOT NULL, n INTEGER NOT NULL, at TEXT NOT NULL, "by" TEXT NOT NULL, why TEXT NOT NULL,
  act TEXT NOT NULL, kind TEXT NOT NULL, record TEXT NOT NULL, before TEXT, after TEXT,
  PRIMARY KEY (household_id, revision, n)
) WITHOUT ROWID;
CREATE INDEX journal_record ON journal (household_id, record, revision);
CREATE TABLE requests (
  household_id TEXT NOT NULL, actor TEXT NOT NULL, key TEXT NOT NULL, hash TEXT NOT NULL, kind TEXT NOT NULL, record TEXT NOT NULL, at TEXT NOT NULL,
  PRIMARY KEY (household_id, actor, key)
) WITHOUT ROWID;
CREATE INDEX requests_at ON requests (at);

CREATE TABLE household (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL, revision INTEGER NOT NULL, code TEXT NOT NULL UNIQUE, name TEXT NOT NULL,
  address TEXT, contacts TEXT, access_notes TEXT, custodian TEXT NOT NULL REFERENCES people (id)
);
CREATE TABLE rooms (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  name TEXT NOT NULL, floor INTEGER, "order" INTEGER, note TEXT
);
CREATE INDEX rooms_home ON rooms (household_id);
CREATE TABLE segments (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  name TEXT NOT NULL, prefix TEXT NOT NULL, vlan INTEGER, ssid TEXT, gateway TEXT, pool_first TEXT, pool_last TEXT, isolation TEXT
);
CREATE INDEX segments_home ON segments (household_id);
CREATE TABLE devices (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  name TEXT NOT NULL, room TEXT REFERENCES rooms (id) DEFERRABLE INITIALLY DEFERRED, roles TEXT, make TEXT, model TEXT, variant TEXT,
  firmware TEXT, serial TEXT, carried INTEGER, menus TEXT
);
CREATE INDEX devices_home ON devices (household_id);
CREATE TABLE interfaces (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  device TEXT NOT NULL REFERENCES devices (id) DEFERRABLE INITIALLY DEFERRED, name TEXT NOT NULL, hardware_address TEXT, addresses TEXT,
  segment TEXT REFERENCES segments (id) DEFERRABLE INITIALLY DEFERRED
);
CREATE INDEX interfaces_home ON interfaces (household_id);
CREATE TABLE sources (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  device TEXT NOT NULL REFERENCES devices (id) DEFERRABLE INITIALLY DEFERRED, name TEXT NOT NULL,
  interface TEXT REFERENCES interfaces (id) DEFERRABLE INITIALLY DEFERRED, protocol TEXT NOT NULL, port INTEGER, locator TEXT,
  shown_name TEXT, udn TEXT
);
CREATE INDEX sources_home ON sources (household_id);
CREATE TABLE folders (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  source TEXT NOT NULL REFERENCES sources (id) DEFERRABLE INITIALLY DEFERRED, name TEXT NOT NULL, content_kind TEXT NOT NULL,
  items_on_disk INTEGER, items_in_index INTEGER
);
CREATE INDEX folders_home ON folders (household_id);
CREATE TABLE paths (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  name TEXT NOT NULL, device TEXT NOT NULL REFERENCES devices (id) DEFERRABLE INITIALLY DEFERRED,
  source TEXT NOT NULL REFERENCES sources (id) DEFERRABLE INITIALLY DEFERRED, folders TEXT, kind TEXT NOT NULL, found_by TEXT NOT NULL,
  mode TEXT, server_end TEXT, device_end TEXT, fall_back TEXT REFERENCES paths (id) DEFERRABLE INITIALLY DEFERRED, retired INTEGER
);
CREATE INDEX paths_home ON paths (household_id);
CREATE TABLE prerequisites (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  subject TEXT NOT NULL, side TEXT NOT NULL, what TEXT NOT NULL, done_by TEXT REFERENCES people (id), done_at TEXT, refused INTEGER, why TEXT
);
CREATE INDEX prerequisites_home ON prerequisites (household_id);
CREATE TABLE attempts (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  test TEXT NOT NULL, subjects TEXT NOT NULL, outcome TEXT NOT NULL, observed TEXT, "values" TEXT, conditions TEXT, note TEXT, how TEXT NOT NULL,
  "by" TEXT NOT NULL REFERENCES people (id), at TEXT NOT NULL, facts TEXT
);
CREATE INDEX attempts_home ON attempts (household_id);
CREATE TABLE issues (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  symptom TEXT NOT NULL, subjects TEXT, reporter TEXT, since TEXT, state TEXT NOT NULL, owner TEXT REFERENCES people (id), next_step TEXT,
  waiting_on TEXT, promised_until TEXT, opened_by TEXT NOT NULL REFERENCES people (id), opened_at TEXT NOT NULL,
  failed_attempt TEXT REFERENCES attempts (id) DEFERRABLE INITIALLY DEFERRED, tries TEXT, cause TEXT, remedy TEXT, remedied_at TEXT,
  proof TEXT REFERENCES attempts (id) DEFERRABLE INITIALLY DEFERRED, closed_at TEXT, closed_why TEXT
);
CREATE INDEX issues_home ON issues (household_id);
CREATE TABLE handovers (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  "from" TEXT NOT NULL REFERENCES people (id), "to" TEXT NOT NULL REFERENCES people (id), state TEXT NOT NULL, since_revision INTEGER,
  until_revision INTEGER NOT NULL, note TEXT, points TEXT, drafted_at TEXT NOT NULL, offered_at TEXT, ended_at TEXT, returned_why TEXT
);
CREATE INDEX handovers_home ON handovers (household_id);
