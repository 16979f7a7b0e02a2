-- +goose Up
-- What readers are told of an edition, where somebody wrote that.
ALTER TABLE editions ADD COLUMN note text NOT NULL DEFAULT '';
ALTER TABLE edition_choices ADD COLUMN note text NOT NULL DEFAULT '';
-- +goose Down
ALTER TABLE edition_choices DROP COLUMN note;
ALTER TABLE editions DROP COLUMN note;
