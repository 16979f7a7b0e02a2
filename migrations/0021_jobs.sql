-- +goose Up
-- Which import a text came with, so that one that goes on after a stop tells all that it did. (The tables of jobs are the queue's own.)
ALTER TABLE page_sources ADD COLUMN import_id uuid;
-- Pages that were found to be nearly the same, and of which state.
CREATE TABLE similar_pages (
    site_id    uuid NOT NULL REFERENCES sites,
    a          text NOT NULL,
    b          text NOT NULL CHECK (a < b),
    share      real NOT NULL CHECK (share BETWEEN 0 AND 1),
    same_title boolean NOT NULL,
    place      integer NOT NULL,
    PRIMARY KEY (site_id, a, b)
);
CREATE TABLE similar_found (
    site_id uuid PRIMARY KEY REFERENCES sites,
    state   text NOT NULL,
    at      timestamptz NOT NULL
);
-- +goose Down
DROP TABLE similar_found, similar_pages;
ALTER TABLE page_sources DROP COLUMN import_id;
