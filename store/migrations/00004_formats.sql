-- +goose Up
-- Formats are values in the terms of their standards. Older entries are read in these terms and stored so when they
-- next change; the journal keeps what was written.
ALTER TABLE decoding_profiles ADD COLUMN complete TEXT;
