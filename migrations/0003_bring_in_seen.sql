-- +goose Up
-- The last sign of life of whoever reads or writes a file. A process that was
-- killed leaves none, and the file is taken up again.
ALTER TABLE bring_ins ADD COLUMN seen_at timestamptz NOT NULL DEFAULT now();
-- +goose Down
ALTER TABLE bring_ins DROP COLUMN seen_at;
