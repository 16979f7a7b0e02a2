-- +goose Up
-- What was understood of a file on its way in, so that it is read once.
ALTER TABLE bring_ins ADD COLUMN sheet bytea, ADD COLUMN follow boolean NOT NULL DEFAULT false, ADD COLUMN texts boolean NOT NULL DEFAULT true;
ALTER TABLE bring_ins DROP CONSTRAINT bring_ins_state_check;
ALTER TABLE bring_ins ADD CONSTRAINT bring_ins_state_check CHECK (state IN ('reading', 'ready', 'refused', 'writing', 'texts', 'written', 'failed'));
UPDATE bring_ins SET state = 'reading' WHERE state = 'ready';
-- The HTML from which the text of a page was brought in, gzipped, and what of it could not be kept.
CREATE TABLE page_sources (
    site_id  uuid NOT NULL REFERENCES sites,
    entry_id text NOT NULL,
    file     text NOT NULL,
    html     bytea NOT NULL,
    lost     jsonb NOT NULL DEFAULT '[]',
    at       timestamptz NOT NULL,
    PRIMARY KEY (site_id, entry_id)
);
ALTER TABLE page_sources ALTER COLUMN html SET STORAGE EXTERNAL;
-- Pictures, named by what they hold.
CREATE TABLE pictures (
    site_id uuid NOT NULL REFERENCES sites,
    id      text NOT NULL,
    name    text NOT NULL,
    type    text NOT NULL,
    data    bytea NOT NULL,
    at      timestamptz NOT NULL,
    PRIMARY KEY (site_id, id)
);
ALTER TABLE pictures ALTER COLUMN data SET STORAGE EXTERNAL;
-- +goose Down
DROP TABLE pictures, page_sources;
UPDATE bring_ins SET state = 'written' WHERE state = 'texts';
ALTER TABLE bring_ins DROP CONSTRAINT bring_ins_state_check;
ALTER TABLE bring_ins ADD CONSTRAINT bring_ins_state_check CHECK (state IN ('reading', 'ready', 'refused', 'writing', 'written', 'failed'));
ALTER TABLE bring_ins DROP COLUMN sheet, DROP COLUMN follow, DROP COLUMN texts;
