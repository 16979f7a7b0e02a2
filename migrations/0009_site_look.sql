-- +goose Up
-- How the reader site looks.
ALTER TABLE sites ADD COLUMN accent text NOT NULL DEFAULT '#2E5A3E', ADD COLUMN mark text NOT NULL DEFAULT 'sprout', ADD COLUMN foot text NOT NULL DEFAULT '';
-- +goose Down
ALTER TABLE sites DROP COLUMN accent, DROP COLUMN mark, DROP COLUMN foot;
