-- +goose Up
-- Whether it was told that the day of a request is past.
ALTER TABLE reviews ADD COLUMN overdue_told boolean NOT NULL DEFAULT false;
-- +goose Down
ALTER TABLE reviews DROP COLUMN overdue_told;
