-- +goose Up
-- The words that a remark is about, as they stood in the text.
ALTER TABLE remarks ADD COLUMN quote text NOT NULL DEFAULT '';
-- +goose Down
ALTER TABLE remarks DROP COLUMN quote;
