-- +goose Up
-- Addresses given up by name and reason: the one way by which an address that
-- answered may answer nothing. A planned one has no edition yet.
CREATE TABLE releases (
    id        bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    site_id   uuid NOT NULL REFERENCES sites,
    address   text COLLATE "C" NOT NULL,
    why       text NOT NULL CHECK (why <> ''),
    person_id uuid NOT NULL REFERENCES people,
    at        timestamptz NOT NULL,
    edition   integer
);
CREATE UNIQUE INDEX releases_planned ON releases (site_id, address) WHERE edition IS NULL;
-- +goose Down
DROP TABLE releases;
