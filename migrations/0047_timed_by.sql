-- +goose Up
-- Who put a change where it is, where that is not who approved it: who gave it its minute.
ALTER TABLE change_states ADD COLUMN by_id uuid CONSTRAINT change_states_by REFERENCES people;
-- +goose Down
ALTER TABLE change_states DROP COLUMN by_id;
