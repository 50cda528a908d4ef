-- +goose Up
CREATE TABLE lease_offers (
  id TEXT PRIMARY KEY, household_id TEXT NOT NULL REFERENCES household (id) DEFERRABLE INITIALLY DEFERRED, revision INTEGER NOT NULL,
  device TEXT NOT NULL REFERENCES devices (id) DEFERRABLE INITIALLY DEFERRED, segment TEXT NOT NULL REFERENCES segments (id) DEFERRABLE INITIALLY DEFERRED,
  pool_first TEXT, pool_last TEXT, gateway TEXT, name_servers TEXT, note TEXT
);
CREATE INDEX lease_offers_home ON lease_offers (household_id);
ALTER TABLE segments ADD COLUMN prefix6 TEXT;
ALTER TABLE segments ADD COLUMN wake_relay TEXT;
ALTER TABLE lines ADD COLUMN seen_address6 TEXT;
ALTER TABLE lines ADD COLUMN ways_in TEXT;
ALTER TABLE readings ADD COLUMN "with" TEXT;
ALTER TABLE devices ADD COLUMN supply_watts REAL;
ALTER TABLE devices ADD COLUMN needs_watts REAL;
ALTER TABLE devices ADD COLUMN sends_wake TEXT;
ALTER TABLE devices ADD COLUMN network_class TEXT;
ALTER TABLE devices ADD COLUMN maps_ports TEXT;
ALTER TABLE devices ADD COLUMN rate_cap_mbps REAL;
ALTER TABLE interfaces ADD COLUMN ssid TEXT;
ALTER TABLE interfaces ADD COLUMN band TEXT;
ALTER TABLE interfaces ADD COLUMN channel INTEGER;
ALTER TABLE sources ADD COLUMN outside_port INTEGER;
ALTER TABLE sources ADD COLUMN outside_by TEXT;
ALTER TABLE sources ADD COLUMN outside_password TEXT;
ALTER TABLE sources ADD COLUMN outside_encrypted TEXT;
ALTER TABLE folders ADD COLUMN also_holds TEXT;
ALTER TABLE folders ADD COLUMN written_to TEXT;
ALTER TABLE openings ADD COLUMN temporary TEXT;
ALTER TABLE paths ADD COLUMN account TEXT REFERENCES accounts (id) DEFERRABLE INITIALLY DEFERRED;
ALTER TABLE paths ADD COLUMN marks TEXT;
ALTER TABLE journal ADD COLUMN done_at TEXT;
