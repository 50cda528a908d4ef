-- +goose Up
-- In which form a stream is sent, by which key the page of a list knows the device, where a list or a feed is kept and when it ends.
ALTER TABLE paths ADD COLUMN sent_as TEXT;
ALTER TABLE paths ADD COLUMN device_key TEXT;
ALTER TABLE sources ADD COLUMN kept_at TEXT;
ALTER TABLE sources ADD COLUMN ends_on TEXT;
