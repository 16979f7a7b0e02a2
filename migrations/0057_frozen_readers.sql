-- +goose Up
-- Nobody shares or exports more than they may read, and what they shared never grows: who was to read it,
-- and who shared it, as they were at that time. All of them must be allowed to read a page.
ALTER TABLE shown_links ADD COLUMN readers jsonb NOT NULL DEFAULT '[]';
-- Comments that come over a link are bounded by the hour, too.
ALTER TABLE shown_links ADD COLUMN hour timestamptz NOT NULL DEFAULT 'epoch', ADD COLUMN in_hour integer NOT NULL DEFAULT 0;
ALTER TABLE edition_exports ADD COLUMN readers jsonb NOT NULL DEFAULT '[]';
-- +goose Down
ALTER TABLE shown_links DROP COLUMN readers, DROP COLUMN hour, DROP COLUMN in_hour;
ALTER TABLE edition_exports DROP COLUMN readers;
