-- +goose Up
-- Addresses with a secret, by which somebody without an account sees what is planned until a time.
CREATE TABLE shown_links (
    id        uuid PRIMARY KEY,
    site_id   uuid NOT NULL CONSTRAINT shown_links_site REFERENCES sites,
    hash      bytea NOT NULL CONSTRAINT shown_links_hash UNIQUE, -- of the secret, which nobody keeps
    state     text NOT NULL CONSTRAINT shown_links_state CHECK (state IN ('next', 'chosen')),
    reader    text NOT NULL, -- a role or a login as which they see it; empty: as nobody who signed in
    person_id uuid NOT NULL CONSTRAINT shown_links_person REFERENCES people,
    at        timestamptz NOT NULL,
    ends      timestamptz NOT NULL CONSTRAINT shown_links_ends CHECK (ends > at),
    remarks   integer NOT NULL DEFAULT 0
);
-- Who has no account gives a name.
ALTER TABLE remarks ALTER COLUMN person_id DROP NOT NULL, ADD COLUMN name text NOT NULL DEFAULT '';
ALTER TABLE remarks ADD CONSTRAINT remarks_by CHECK ((person_id IS NULL) = (name <> ''));
-- +goose Down
DELETE FROM remarks WHERE person_id IS NULL;
ALTER TABLE remarks DROP COLUMN name, ALTER COLUMN person_id SET NOT NULL;
DROP TABLE shown_links;
