-- +goose Up
-- What was read of the files in each folder, at the newest reading of it; it stands beside the dossier, as scans do.
CREATE TABLE folder_contents (
  household_id TEXT NOT NULL, folder TEXT NOT NULL, ended_at TEXT NOT NULL, body BLOB NOT NULL,
  PRIMARY KEY (household_id, folder)
);
