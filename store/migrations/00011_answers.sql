-- +goose Up
-- What callers said when asked about an issue.
ALTER TABLE issues ADD COLUMN answers TEXT;
