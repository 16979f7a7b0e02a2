-- +goose Up
-- What asking for every address that ever answered came to when an edition was published.
ALTER TABLE editions ADD COLUMN proof jsonb;
-- +goose Down
ALTER TABLE editions DROP COLUMN proof;
