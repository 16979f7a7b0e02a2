-- +goose Up
-- States of changes are stored by the names that screens and code have for them.
ALTER TABLE change_states DROP CONSTRAINT change_states_state, DROP CONSTRAINT change_states_timed;
ALTER TABLE change_history DROP CONSTRAINT change_history_state;
UPDATE change_states SET state = CASE state WHEN 'timed' THEN 'scheduled' ELSE 'in review' END WHERE state IN ('with reviewer', 'timed');
UPDATE change_history SET state = CASE state WHEN 'timed' THEN 'scheduled' ELSE 'in review' END WHERE state IN ('with reviewer', 'timed');
SET CONSTRAINTS ALL IMMEDIATE;
ALTER TABLE change_states
    ADD CONSTRAINT change_states_state CHECK (state IN ('draft', 'in review', 'ready', 'scheduled')),
    ADD CONSTRAINT change_states_scheduled CHECK ((state = 'scheduled') = (go_at IS NOT NULL));
ALTER TABLE change_history ADD CONSTRAINT change_history_state CHECK (state IN ('draft', 'in review', 'ready', 'scheduled'));
-- +goose Down
ALTER TABLE change_states DROP CONSTRAINT change_states_state, DROP CONSTRAINT change_states_scheduled;
ALTER TABLE change_history DROP CONSTRAINT change_history_state;
UPDATE change_states SET state = CASE state WHEN 'scheduled' THEN 'timed' ELSE 'with reviewer' END WHERE state IN ('in review', 'scheduled');
UPDATE change_history SET state = CASE state WHEN 'scheduled' THEN 'timed' ELSE 'with reviewer' END WHERE state IN ('in review', 'scheduled');
SET CONSTRAINTS ALL IMMEDIATE;
ALTER TABLE change_states
    ADD CONSTRAINT change_states_state CHECK (state IN ('draft', 'with reviewer', 'ready', 'timed')),
    ADD CONSTRAINT change_states_timed CHECK ((state = 'timed') = (go_at IS NOT NULL));
ALTER TABLE change_history ADD CONSTRAINT change_history_state CHECK (state IN ('draft', 'with reviewer', 'ready', 'timed'));
