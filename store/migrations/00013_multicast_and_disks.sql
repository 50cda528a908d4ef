-- +goose Up
-- Television may be sent once for all who watch it, and a disk reads only so fast.
ALTER TABLE sources ADD COLUMN multicast TEXT NOT NULL DEFAULT '';
ALTER TABLE segments ADD COLUMN cast_mbps REAL NOT NULL DEFAULT 0;
ALTER TABLE segments ADD COLUMN cast_to_each TEXT NOT NULL DEFAULT '';
ALTER TABLE devices ADD COLUMN disk_mbps REAL NOT NULL DEFAULT 0;
