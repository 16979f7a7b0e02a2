-- +goose Up
-- Editions that are so large that nobody waits for them: a job publishes them, and tells.
CREATE TABLE large_editions (
    id        uuid PRIMARY KEY,
    site_id   uuid NOT NULL CONSTRAINT large_editions_site REFERENCES sites,
    person_id uuid NOT NULL CONSTRAINT large_editions_person REFERENCES people,
    why       text NOT NULL,
    note      text NOT NULL,
    looked    text NOT NULL, -- what the person had before them
    changes   integer NOT NULL,
    state     text NOT NULL CONSTRAINT large_editions_state CHECK (state IN ('waiting', 'out', 'stopped')),
    done      integer NOT NULL DEFAULT 0, -- pages that are rendered anew, of all that are
    total     integer NOT NULL DEFAULT 0,
    edition   integer NOT NULL DEFAULT 0,
    problem   text NOT NULL DEFAULT '',
    at        timestamptz NOT NULL
);
-- +goose Down
DROP TABLE large_editions;
