-- +goose Up
-- Earlier states are written with every save; lz4 takes a fifth of the time.
ALTER TABLE draft_states ALTER COLUMN content SET COMPRESSION lz4;

-- +goose Down
ALTER TABLE draft_states ALTER COLUMN content SET COMPRESSION DEFAULT;
