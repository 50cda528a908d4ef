-- +goose Up
-- What callers said when asked about an issue, and which fault it was, where.
ALTER TABLE issues ADD COLUMN answers TEXT;
ALTER TABLE issues ADD COLUMN fault TEXT;
ALTER TABLE issues ADD COLUMN fault_at TEXT;
