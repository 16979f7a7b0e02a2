-- +goose Up
-- The words of a draft are worked out once nobody writes on it, at the latest when it is published.
ALTER TABLE page_words ALTER COLUMN words DROP NOT NULL;
CREATE INDEX page_words_missing ON page_words (version_id) WHERE words IS NULL;
-- What is written again and again is packed by the quicker of two ways.
ALTER TABLE page_versions ALTER COLUMN content SET COMPRESSION lz4;
ALTER TABLE draft_states ALTER COLUMN content SET COMPRESSION lz4;
-- +goose Down
ALTER TABLE page_versions ALTER COLUMN content SET COMPRESSION DEFAULT;
ALTER TABLE draft_states ALTER COLUMN content SET COMPRESSION DEFAULT;
UPDATE page_words SET words = to_tsvector('english', plain) WHERE words IS NULL;
DROP INDEX page_words_missing;
ALTER TABLE page_words ALTER COLUMN words SET NOT NULL;
