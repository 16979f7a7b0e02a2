-- +goose Up
-- When a timed change goes out, and in which zone that was said.
ALTER TABLE change_states ADD COLUMN go_at timestamptz, ADD COLUMN zone text NOT NULL DEFAULT '';
ALTER TABLE change_states ADD CONSTRAINT change_states_timed CHECK ((state = 'timed') = (go_at IS NOT NULL));
CREATE INDEX change_states_due ON change_states (site_id, go_at) WHERE go_at IS NOT NULL;
-- +goose Down
DELETE FROM change_states WHERE state = 'timed';
ALTER TABLE change_states DROP COLUMN go_at, DROP COLUMN zone;
