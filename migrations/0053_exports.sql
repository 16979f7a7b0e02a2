-- +goose Up
-- Editions that a job writes out as files, for a day; the .zip lies in the storage of files.
CREATE TABLE edition_exports (
    id        uuid PRIMARY KEY,
    site_id   uuid NOT NULL CONSTRAINT edition_exports_site REFERENCES sites,
    person_id uuid NOT NULL CONSTRAINT edition_exports_person REFERENCES people,
    edition   integer NOT NULL,
    reads_as  text NOT NULL, -- the login or role as whom it is read
    state     text NOT NULL CONSTRAINT edition_exports_state CHECK (state IN ('waiting', 'out', 'stopped')),
    done      integer NOT NULL DEFAULT 0, -- pages that are written, of all
    total     integer NOT NULL DEFAULT 0,
    bytes     bigint NOT NULL DEFAULT 0,
    problem   text NOT NULL DEFAULT '',
    at        timestamptz NOT NULL
);
CREATE UNIQUE INDEX edition_exports_one ON edition_exports (site_id, person_id);
-- +goose Down
DROP TABLE edition_exports;
