-- +goose Up
-- What an act did to drafts and decisions, so that it is undone in one step.
ALTER TABLE acts ADD COLUMN texts jsonb NOT NULL DEFAULT '[]', ADD COLUMN decisions jsonb NOT NULL DEFAULT '[]';
-- Pages that somebody said are not the same, however alike they are.
CREATE TABLE different_pages (
    site_id   uuid NOT NULL REFERENCES sites,
    a         text NOT NULL,
    b         text NOT NULL CHECK (a < b),
    person_id uuid NOT NULL REFERENCES people,
    at        timestamptz NOT NULL,
    PRIMARY KEY (site_id, a, b)
);
-- +goose Down
DROP TABLE different_pages;
ALTER TABLE acts DROP COLUMN texts, DROP COLUMN decisions;
