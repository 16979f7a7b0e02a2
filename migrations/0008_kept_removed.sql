-- +goose Up
-- How long removed pages are kept, and those that were deleted for good.
ALTER TABLE sites ADD COLUMN keep_removed_days integer NOT NULL DEFAULT 60 CHECK (keep_removed_days BETWEEN 1 AND 3650);
CREATE TABLE deleted_entries (
    site_id   uuid NOT NULL REFERENCES sites,
    entry_id  text NOT NULL,
    person_id uuid NOT NULL REFERENCES people,
    at        timestamptz NOT NULL,
    PRIMARY KEY (site_id, entry_id)
);
-- +goose Down
DROP TABLE deleted_entries;
ALTER TABLE sites DROP COLUMN keep_removed_days;
