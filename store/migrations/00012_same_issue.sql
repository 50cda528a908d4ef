-- +goose Up
-- An issue may be one more symptom of another.
ALTER TABLE issues ADD COLUMN same_as TEXT REFERENCES issues (id) DEFERRABLE INITIALLY DEFERRED;
