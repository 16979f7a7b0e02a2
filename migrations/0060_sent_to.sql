-- +goose Up
-- Whom a change was sent to, and until when, as a history tells it; requests themselves end with the change.
ALTER TABLE change_history ADD COLUMN sent_to text NOT NULL DEFAULT '', ADD COLUMN due text NOT NULL DEFAULT '';
-- +goose Down
ALTER TABLE change_history DROP COLUMN sent_to, DROP COLUMN due;
