-- +goose Up
-- Earlier versions of a draft from which something was taken away stay longer.
ALTER TABLE draft_states ADD COLUMN lost boolean NOT NULL DEFAULT false, ADD COLUMN bytes integer NOT NULL DEFAULT 0;
-- +goose Down
ALTER TABLE draft_states DROP COLUMN lost, DROP COLUMN bytes;
