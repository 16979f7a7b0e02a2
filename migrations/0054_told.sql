-- +goose Up
-- What an edition changed is up to megabytes; the usual compression takes longer than all the rest of its row.
ALTER TABLE editions ALTER COLUMN told SET COMPRESSION lz4;
-- +goose Down
ALTER TABLE editions ALTER COLUMN told SET COMPRESSION DEFAULT;
