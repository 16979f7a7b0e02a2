-- +goose Up
-- Lists of older sites on their way in; the file itself is in the storage of files.
CREATE TABLE older_imports (
    id        uuid PRIMARY KEY,
    site_id   uuid NOT NULL CONSTRAINT older_imports_site REFERENCES sites,
    person_id uuid NOT NULL CONSTRAINT older_imports_person REFERENCES people,
    at        timestamptz NOT NULL,
    file_name text NOT NULL,
    host      text NOT NULL,
    state     text NOT NULL CONSTRAINT older_imports_state CHECK (state IN ('reading', 'writing', 'done', 'refused')),
    percent   integer NOT NULL DEFAULT 0 CONSTRAINT older_imports_percent CHECK (percent BETWEEN 0 AND 100),
    said      text NOT NULL DEFAULT ''
);
-- +goose Down
DROP TABLE older_imports;
