-- +goose Up
-- What a server does with a device that it has not seen before, and the language and the country that decide its titles.
ALTER TABLE sources ADD COLUMN newcomers TEXT;
ALTER TABLE sources ADD COLUMN language TEXT;
ALTER TABLE sources ADD COLUMN region TEXT;
ALTER TABLE accounts ADD COLUMN region TEXT;
