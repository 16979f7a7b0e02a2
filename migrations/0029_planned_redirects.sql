-- +goose Up
-- Where a redirect comes from: '' it follows from a move, 'hand' somebody made it.
ALTER TABLE redirects ADD COLUMN origin text NOT NULL DEFAULT '';
-- Redirects that are planned by hand: of an address, or of an address and all below.
CREATE TABLE planned_redirects (
    site_id      uuid NOT NULL CONSTRAINT planned_redirects_site REFERENCES sites,
    from_address text COLLATE "C" NOT NULL CONSTRAINT planned_redirects_from CHECK (from_address LIKE '/%'),
    match        text NOT NULL CONSTRAINT planned_redirects_match CHECK (match IN ('exact', 'prefix', 'branch')),
    to_entry     text NOT NULL,
    to_address   text NOT NULL,
    to_url       text NOT NULL,
    to_suffix    text NOT NULL,
    code         integer NOT NULL CONSTRAINT planned_redirects_code CHECK (code IN (301, 302, 307, 308, 410)),
    note         text NOT NULL,
    review       text NOT NULL,
    origin       text NOT NULL,
    person_id    uuid NOT NULL CONSTRAINT planned_redirects_person REFERENCES people,
    at           timestamptz NOT NULL
);
CREATE UNIQUE INDEX planned_redirects_key ON planned_redirects (site_id, from_address, (match = 'exact'));
ALTER TABLE acts ADD COLUMN redirects jsonb NOT NULL DEFAULT '[]';
-- +goose Down
ALTER TABLE acts DROP COLUMN redirects;
DROP TABLE planned_redirects;
ALTER TABLE redirects DROP COLUMN origin;
