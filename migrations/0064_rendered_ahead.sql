-- +goose Up
-- Pages that a large or scheduled edition lays out anew, rendered before it holds the site. Losing them costs
-- rendering them again, so they are not logged.
CREATE UNLOGGED TABLE rendered_ahead (
    version_id uuid PRIMARY KEY REFERENCES page_versions ON DELETE CASCADE,
    site_id uuid NOT NULL REFERENCES sites ON DELETE CASCADE,
    made_of text NOT NULL,
    asked jsonb NOT NULL,
    body bytea NOT NULL,
    outline jsonb NOT NULL,
    slots jsonb NOT NULL,
    links jsonb NOT NULL,
    plain text NOT NULL,
    at timestamptz NOT NULL
);
-- +goose Down
DROP TABLE rendered_ahead;
