-- +goose Up
-- Addresses of older sites, by their hosts. Where each leads is not kept here: it follows from
-- the redirects and pages.
CREATE TABLE older_addresses (
    site_id uuid NOT NULL CONSTRAINT older_addresses_site REFERENCES sites,
    host    text COLLATE "C" NOT NULL,
    address text COLLATE "C" NOT NULL,
    title   text NOT NULL,
    visits  bigint NOT NULL CONSTRAINT older_addresses_visits CHECK (visits >= 0),
    said    text COMPRESSION lz4 NOT NULL,
    at      timestamptz NOT NULL,
    PRIMARY KEY (site_id, host, address)
);
-- +goose Down
DROP TABLE older_addresses;
