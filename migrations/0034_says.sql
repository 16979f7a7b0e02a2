-- +goose Up
-- What readers are told at an address that is gone on purpose.
ALTER TABLE redirects ADD COLUMN says text NOT NULL DEFAULT '';
ALTER TABLE planned_redirects ADD COLUMN says text NOT NULL DEFAULT '';
ALTER TABLE decisions ADD COLUMN says text NOT NULL DEFAULT '';
-- +goose Down
ALTER TABLE decisions DROP COLUMN says;
ALTER TABLE planned_redirects DROP COLUMN says;
ALTER TABLE redirects DROP COLUMN says;
