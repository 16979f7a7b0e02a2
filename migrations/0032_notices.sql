-- +goose Up
-- What people are told, one row a person. The same is not told twice while it is unread.
CREATE TABLE notices (
    id        bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    site_id   uuid NOT NULL CONSTRAINT notices_site REFERENCES sites,
    person_id uuid NOT NULL CONSTRAINT notices_person REFERENCES people,
    kind      text NOT NULL,
    subject   text NOT NULL,
    words     text NOT NULL,
    at        timestamptz NOT NULL,
    read_at   timestamptz,
    CONSTRAINT notices_read CHECK (read_at >= at)
);
CREATE UNIQUE INDEX notices_once ON notices (site_id, person_id, kind, subject) WHERE read_at IS NULL;
CREATE INDEX notices_of ON notices (site_id, person_id, at DESC);
-- +goose Down
DROP TABLE notices;
