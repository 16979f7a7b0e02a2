-- +goose Up
-- Goes up whenever the addresses of older sites change: counting hundreds of thousands of them at each look takes too long.
ALTER TABLE sites ADD COLUMN older_version bigint NOT NULL DEFAULT 0;
-- +goose Down
ALTER TABLE sites DROP COLUMN older_version;
