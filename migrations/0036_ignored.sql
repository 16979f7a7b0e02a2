-- +goose Up
-- Addresses of which nobody is to be told that they answer nothing.
CREATE TABLE ignored_addresses (
    site_id uuid NOT NULL CONSTRAINT ignored_addresses_site REFERENCES sites,
    pattern text NOT NULL CONSTRAINT ignored_addresses_pattern CHECK (pattern <> ''),
    person_id uuid NOT NULL CONSTRAINT ignored_addresses_person REFERENCES people,
    at      timestamptz NOT NULL,
    PRIMARY KEY (site_id, pattern)
);
-- +goose Down
DROP TABLE ignored_addresses;
