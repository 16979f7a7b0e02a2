-- +goose Up
-- Times in which nothing is published.
CREATE TABLE freezes (
    id        uuid PRIMARY KEY,
    site_id   uuid NOT NULL CONSTRAINT freezes_site REFERENCES sites,
    begins    timestamptz NOT NULL,
    ends      timestamptz NOT NULL CONSTRAINT freezes_ends CHECK (ends > begins),
    why       text NOT NULL CONSTRAINT freezes_why CHECK (why <> ''),
    person_id uuid NOT NULL CONSTRAINT freezes_person REFERENCES people
);
-- Live pages that are withdrawn at a minute, with where their visitors go meanwhile.
CREATE TABLE withdrawals (
    site_id   uuid NOT NULL CONSTRAINT withdrawals_site REFERENCES sites,
    entry_id  text NOT NULL,
    go_at     timestamptz NOT NULL,
    zone      text NOT NULL CONSTRAINT withdrawals_zone CHECK (zone <> ''),
    goes_to   text NOT NULL, -- an entry id, an address, a URL or gone
    says      text NOT NULL,
    person_id uuid NOT NULL CONSTRAINT withdrawals_person REFERENCES people,
    PRIMARY KEY (site_id, entry_id),
    CONSTRAINT withdrawals_of FOREIGN KEY (site_id, entry_id) REFERENCES entries
);
CREATE INDEX withdrawals_due ON withdrawals (site_id, go_at);
-- +goose Down
DROP TABLE withdrawals, freezes;
