-- +goose Up
-- A second factor (RFC 6238): its sealed secret and the time step of the last code that was taken. A session that
-- was made by a token ends with it.
ALTER TABLE people ADD COLUMN second_factor BLOB;
ALTER TABLE people ADD COLUMN second_factor_step INTEGER NOT NULL DEFAULT 0;
ALTER TABLE sessions ADD COLUMN parent TEXT REFERENCES sessions (hash) ON DELETE CASCADE;
CREATE INDEX sessions_parent ON sessions (parent);
-- The hash of a request with a short secret in it could be turned back into the secret; from now on it is keyed.
DELETE FROM requests;
