-- +goose Up

-- The firm, and who is logged in.
CREATE TABLE people (
  id TEXT PRIMARY KEY, login TEXT NOT NULL UNIQUE, name TEXT NOT NULL,
  role TEXT NOT NULL CHECK (role IN ('coordinator', 'lead', 'technician', 'observer')), password_hash TEXT NOT NULL, suspended_at TEXT,
  created_at TEXT NOT NULL
);
CREATE TABLE sessions (
  hash TEXT PRIMARY KEY, person_id TEXT NOT NULL REFERENCES people (id), name TEXT NOT NULL, created_at TEXT NOT NULL,
  expires_at TEXT NOT NULL, id TEXT NOT NULL, kind TEXT NOT NULL
);
CREATE INDEX sessions_person ON sessions (person_id);
CREATE TABLE remembered (
  name TEXT PRIMARY KEY, value TEXT NOT NULL
) WITHOUT ROWID;

-- What households are listed by: one row for each, written by the door.
CREATE TABLE summaries (
  household_id TEXT PRIMARY KEY, code TEXT NOT NULL UNIQUE, name TEXT NOT NULL, custodian TEXT NOT NULL REFERENCES people (id),
  revision INTEGER NOT NULL, changed_at TEXT NOT NULL, required INTEGER NOT NULL, proven INTEGER NOT NULL, marginal INTEGER NOT NULL,
  failed INTEGER NOT NULL, stale INTEGER NOT NULL, untried INTEGER NOT NULL, blockers INTEGER NOT NULL, open_issues INTEGER NOT NULL,
  offered_to TEXT NOT NULL, returned_to TEXT NOT NULL, waived INTEGER NOT NULL, due_on TEXT NOT NULL, long_task_at TEXT NOT NULL,
  review_on TEXT NOT NULL
);
CREATE INDEX summaries_custodian ON summaries (custodian);
CREATE INDEX summaries_name ON summaries (name COLLATE NOCASE, code);
CREATE INDEX summaries_changed ON summaries (changed_at, code);

-- Every change to every household.
CREATE TABLE journal (
  household_id TEXT NOT NULL, revision INTEGER NOT NULL, n INTEGER NOT NULL, "at" TEXT NOT NULL, "by" TEXT NOT NULL, why TEXT NOT NULL,
  act TEXT NOT NULL, kind TEXT NOT NULL, record TEXT NOT NULL, before TEXT, after TEXT, done_at TEXT,
  PRIMARY KEY (household_id, revision, n)
) WITHOUT ROWID;
CREATE INDEX journal_record ON journal (household_id, record, revision);

-- Idempotency keys, kept for a week.
CREATE TABLE requests (
  household_id TEXT NOT NULL, actor TEXT NOT NULL, key TEXT NOT NULL, hash TEXT NOT NULL, kind TEXT NOT NULL, record TEXT NOT NULL,
  "at" TEXT NOT NULL,
  PRIMARY KEY (household_id, actor, key)
) WITHOUT ROWID;
CREATE INDEX requests_at ON requests (at);

-- What records are found by.
CREATE TABLE findable (
  id INTEGER PRIMARY KEY, household_id TEXT NOT NULL, kind TEXT NOT NULL, record TEXT NOT NULL UNIQUE, label TEXT NOT NULL
);
CREATE INDEX findable_home ON findable (household_id);
CREATE VIRTUAL TABLE findable_text USING fts5 (words, keys, tokenize = "unicode61 remove_diacritics 2", prefix = '2 3');
INSERT INTO findable_text (findable_text, rank) VALUES ('secure-delete', 1);

-- Encrypted secrets; the dossier holds only what each is for.
CREATE TABLE sealed (
  id TEXT PRIMARY KEY, body BLOB NOT NULL, created_at TEXT NOT NULL
);

-- Results of network scans, kept for 90 days. They are not part of the dossier; what is recorded from
-- them goes through the door.
CREATE TABLE scans (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id), ended_at TEXT NOT NULL, body TEXT NOT NULL
);
CREATE INDEX scans_home ON scans (household_id, ended_at);

-- What people said about the results of scans: which device a host is, and which values to ignore
-- while the same is seen.
CREATE TABLE host_reviews (
  household_id TEXT NOT NULL REFERENCES household (id), what TEXT NOT NULL, value TEXT NOT NULL, by_person TEXT NOT NULL,
  "at" TEXT NOT NULL,
  PRIMARY KEY (household_id, what)
);

-- The dossier: one table for each kind of record.
CREATE TABLE household (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL, revision INTEGER NOT NULL, code TEXT NOT NULL UNIQUE, name TEXT NOT NULL, address TEXT,
  contacts TEXT, access_notes TEXT, custodian TEXT NOT NULL REFERENCES people (id), erased_at TEXT
);
CREATE TABLE rooms (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  name TEXT NOT NULL, floor INTEGER, "order" INTEGER, note TEXT, power TEXT
);
CREATE INDEX rooms_home ON rooms (household_id);
CREATE TABLE devices (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  name TEXT NOT NULL, room TEXT REFERENCES rooms (id) DEFERRABLE INITIALLY DEFERRED, roles TEXT, make TEXT, model TEXT, variant TEXT,
  firmware TEXT, serial TEXT, carried INTEGER, menus TEXT, handling TEXT, power_supply TEXT, cooling TEXT, medium TEXT, remote TEXT,
  standby TEXT, wake TEXT, wake_proven TEXT, recognised_as TEXT, content_kinds TEXT, admission TEXT, supply_watts REAL, needs_watts REAL,
  sends_wake TEXT, network_class TEXT, maps_ports TEXT, rate_cap_mbps REAL, udn TEXT, host_name TEXT, announces TEXT
);
CREATE INDEX devices_home ON devices (household_id);
CREATE TABLE segments (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  name TEXT NOT NULL, prefix TEXT NOT NULL, vlan INTEGER, ssid TEXT, gateway TEXT, pool_first TEXT, pool_last TEXT, isolation TEXT,
  dhcp_servers TEXT, name_servers TEXT, reservations TEXT, multicast_to TEXT, snooping TEXT, querier TEXT, prefix6 TEXT, wake_relay TEXT,
  no_dhcp INTEGER, name_port INTEGER
);
CREATE INDEX segments_home ON segments (household_id);
CREATE TABLE dhcp_servers (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  device TEXT NOT NULL REFERENCES devices (id) DEFERRABLE INITIALLY DEFERRED,
  segment TEXT NOT NULL REFERENCES segments (id) DEFERRABLE INITIALLY DEFERRED, pool_first TEXT, pool_last TEXT, gateway TEXT,
  name_servers TEXT, note TEXT
);
CREATE INDEX dhcp_servers_home ON dhcp_servers (household_id);
CREATE TABLE interfaces (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  device TEXT NOT NULL REFERENCES devices (id) DEFERRABLE INITIALLY DEFERRED, name TEXT NOT NULL, hardware_address TEXT, addresses TEXT,
  segment TEXT REFERENCES segments (id) DEFERRABLE INITIALLY DEFERRED, address_by TEXT, randomised TEXT, medium TEXT, port_mbps REAL,
  facing TEXT, ssid TEXT, band TEXT, channel INTEGER
);
CREATE INDEX interfaces_home ON interfaces (household_id);
CREATE TABLE outlets (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  room TEXT NOT NULL REFERENCES rooms (id) DEFERRABLE INITIALLY DEFERRED, name TEXT NOT NULL, cable TEXT,
  patched_to TEXT REFERENCES interfaces (id) DEFERRABLE INITIALLY DEFERRED, patching TEXT, tested_mbps REAL, tested_on TEXT, note TEXT,
  not_patched INTEGER, tested TEXT
);
CREATE INDEX outlets_home ON outlets (household_id);
CREATE TABLE lines (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  name TEXT NOT NULL, kind TEXT NOT NULL, provider TEXT, router TEXT REFERENCES devices (id) DEFERRABLE INITIALLY DEFERRED,
  sold_down_mbps REAL, sold_up_mbps REAL, down_mbps REAL, up_mbps REAL, measured_at TEXT, outer_address TEXT, seen_address TEXT,
  outer_prefix TEXT, note TEXT, seen_address6 TEXT, ways_in TEXT
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
  what TEXT NOT NULL, value REAL NOT NULL, subject TEXT, room TEXT REFERENCES rooms (id) DEFERRABLE INITIALLY DEFERRED, how TEXT NOT NULL,
  "at" TEXT NOT NULL, conditions TEXT, measured_with TEXT
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
  device TEXT REFERENCES devices (id) DEFERRABLE INITIALLY DEFERRED, person TEXT, contents TEXT, days TEXT, "from" TEXT, until TEXT,
  set_where TEXT
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
  name TEXT NOT NULL, login TEXT, secret TEXT REFERENCES secrets (id) DEFERRABLE INITIALLY DEFERRED, signed_in TEXT, seats INTEGER,
  note TEXT
);
CREATE INDEX accounts_home ON accounts (household_id);
CREATE TABLE software (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  device TEXT NOT NULL REFERENCES devices (id) DEFERRABLE INITIALLY DEFERRED, name TEXT NOT NULL, does TEXT NOT NULL, version TEXT,
  newest_packaged TEXT, newest_known TEXT, given_up INTEGER, licence TEXT, ends_on TEXT, seats INTEGER, starts TEXT, runs_as TEXT,
  network_move TEXT
);
CREATE INDEX software_home ON software (household_id);
CREATE TABLE sources (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  device TEXT NOT NULL REFERENCES devices (id) DEFERRABLE INITIALLY DEFERRED, name TEXT NOT NULL,
  interface TEXT REFERENCES interfaces (id) DEFERRABLE INITIALLY DEFERRED, protocol TEXT NOT NULL, port INTEGER, locator TEXT,
  shown_name TEXT, udn TEXT, account TEXT REFERENCES accounts (id) DEFERRABLE INITIALLY DEFERRED, writable TEXT, seats INTEGER,
  converts TEXT, budget_mpx REAL, rate_cap_mbps REAL, outside_port INTEGER, outside_by TEXT, outside_password TEXT, outside_encrypted TEXT,
  guide TEXT
);
CREATE INDEX sources_home ON sources (household_id);
CREATE TABLE folders (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  source TEXT NOT NULL REFERENCES sources (id) DEFERRABLE INITIALLY DEFERRED, name TEXT NOT NULL, content_kind TEXT NOT NULL,
  items_on_disk INTEGER, items_in_index INTEGER, lies_on TEXT REFERENCES devices (id) DEFERRABLE INITIALLY DEFERRED, locations TEXT,
  readable_by TEXT, writable_by TEXT, indexed_at TEXT, index_minutes INTEGER, missing TEXT, mix TEXT, also_holds TEXT, written_to TEXT
);
CREATE INDEX folders_home ON folders (household_id);
CREATE TABLE decoding_profiles (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  device TEXT NOT NULL REFERENCES devices (id) DEFERRABLE INITIALLY DEFERRED, entries TEXT, note TEXT
);
CREATE INDEX decoding_profiles_home ON decoding_profiles (household_id);
CREATE TABLE chain_links (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  "from" TEXT NOT NULL REFERENCES devices (id) DEFERRABLE INITIALLY DEFERRED,
  "to" TEXT NOT NULL REFERENCES devices (id) DEFERRABLE INITIALLY DEFERRED, input TEXT, best_mode TEXT, copy_protection TEXT,
  sound_return TEXT, note TEXT
);
CREATE INDEX chain_links_home ON chain_links (household_id);
CREATE TABLE openings (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  device TEXT NOT NULL REFERENCES devices (id) DEFERRABLE INITIALLY DEFERRED, transport TEXT NOT NULL, port INTEGER NOT NULL,
  last_port INTEGER, direction TEXT NOT NULL, network_class TEXT, state TEXT NOT NULL, "for" TEXT, temporary TEXT
);
CREATE INDEX openings_home ON openings (household_id);
CREATE TABLE paths (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  name TEXT NOT NULL, device TEXT NOT NULL REFERENCES devices (id) DEFERRABLE INITIALLY DEFERRED,
  source TEXT NOT NULL REFERENCES sources (id) DEFERRABLE INITIALLY DEFERRED, folders TEXT, kind TEXT NOT NULL, found_by TEXT NOT NULL,
  mode TEXT, server_end TEXT, device_end TEXT, fall_back TEXT REFERENCES paths (id) DEFERRABLE INITIALLY DEFERRED, retired INTEGER,
  control_point TEXT REFERENCES devices (id) DEFERRABLE INITIALLY DEFERRED, started_by TEXT,
  account TEXT REFERENCES accounts (id) DEFERRABLE INITIALLY DEFERRED, marks TEXT
);
CREATE INDEX paths_home ON paths (household_id);
CREATE TABLE busy_sets (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  name TEXT NOT NULL, paths TEXT, note TEXT
);
CREATE INDEX busy_sets_home ON busy_sets (household_id);
CREATE TABLE prerequisites (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  subject TEXT NOT NULL, side TEXT NOT NULL, what TEXT NOT NULL, done_by TEXT REFERENCES people (id), done_at TEXT, refused INTEGER,
  why TEXT
);
CREATE INDEX prerequisites_home ON prerequisites (household_id);
CREATE TABLE attempts (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  test TEXT NOT NULL, subjects TEXT NOT NULL, outcome TEXT NOT NULL, observed TEXT, "values" TEXT, conditions TEXT, note TEXT,
  how TEXT NOT NULL, "by" TEXT NOT NULL REFERENCES people (id), "at" TEXT NOT NULL, facts TEXT
);
CREATE INDEX attempts_home ON attempts (household_id);
CREATE TABLE waivers (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  test TEXT NOT NULL, subjects TEXT NOT NULL, why TEXT NOT NULL, until TEXT, "by" TEXT NOT NULL REFERENCES people (id), "at" TEXT NOT NULL
);
CREATE INDEX waivers_home ON waivers (household_id);
CREATE TABLE issues (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  symptom TEXT NOT NULL, subjects TEXT, reporter TEXT, since TEXT, state TEXT NOT NULL, owner TEXT REFERENCES people (id), next_step TEXT,
  waiting_on TEXT, promised_until TEXT, opened_by TEXT NOT NULL REFERENCES people (id), opened_at TEXT NOT NULL,
  failed_attempt TEXT REFERENCES attempts (id) DEFERRABLE INITIALLY DEFERRED, tries TEXT, cause TEXT, remedy TEXT, remedied_at TEXT,
  proof TEXT REFERENCES attempts (id) DEFERRABLE INITIALLY DEFERRED, closed_at TEXT, closed_why TEXT
);
CREATE INDEX issues_home ON issues (household_id);
CREATE TABLE settings_copies (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  device TEXT NOT NULL REFERENCES devices (id) DEFERRABLE INITIALLY DEFERRED, taken_at TEXT NOT NULL, holds TEXT NOT NULL,
  "where" TEXT NOT NULL, version TEXT, note TEXT
);
CREATE INDEX settings_copies_home ON settings_copies (household_id);
CREATE TABLE changes (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  device TEXT NOT NULL REFERENCES devices (id) DEFERRABLE INITIALLY DEFERRED, what TEXT NOT NULL, "at" TEXT, follow_ups TEXT, done TEXT,
  losses TEXT, settings_copy TEXT REFERENCES settings_copies (id) DEFERRABLE INITIALLY DEFERRED, note TEXT
);
CREATE INDEX changes_home ON changes (household_id);
CREATE TABLE visits (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  purpose TEXT NOT NULL, technician TEXT NOT NULL REFERENCES people (id), starts TEXT NOT NULL, minutes INTEGER, bring TEXT, bench TEXT,
  outcome TEXT, cancelled INTEGER
);
CREATE INDEX visits_home ON visits (household_id);
CREATE TABLE long_tasks (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  what TEXT NOT NULL, subject TEXT, started_at TEXT, expected_at TEXT NOT NULL, checked_by TEXT NOT NULL REFERENCES people (id),
  ended_at TEXT, showed TEXT
);
CREATE INDEX long_tasks_home ON long_tasks (household_id);
CREATE TABLE due_dates (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  what TEXT NOT NULL, kind TEXT NOT NULL, "on" TEXT NOT NULL, subject TEXT, who TEXT REFERENCES people (id), done_at TEXT, note TEXT
);
CREATE INDEX due_dates_home ON due_dates (household_id);
CREATE TABLE attachments (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  subject TEXT NOT NULL, caption TEXT NOT NULL, sha256 TEXT NOT NULL, media_type TEXT NOT NULL, bytes INTEGER NOT NULL, width INTEGER,
  height INTEGER, file_name TEXT, "at" TEXT NOT NULL, "by" TEXT NOT NULL REFERENCES people (id)
);
CREATE INDEX attachments_home ON attachments (household_id);
CREATE TABLE gap_answers (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  gap TEXT NOT NULL, subject TEXT, answer TEXT NOT NULL, note TEXT, "by" TEXT NOT NULL REFERENCES people (id), "at" TEXT NOT NULL
);
CREATE INDEX gap_answers_home ON gap_answers (household_id);
CREATE TABLE handovers (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  "from" TEXT NOT NULL REFERENCES people (id), "to" TEXT NOT NULL REFERENCES people (id), state TEXT NOT NULL, since_revision INTEGER,
  until_revision INTEGER NOT NULL, note TEXT, points TEXT, drafted_at TEXT NOT NULL, offered_at TEXT, ended_at TEXT, returned_why TEXT
);
CREATE INDEX handovers_home ON handovers (household_id);
