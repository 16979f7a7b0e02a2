-- +goose Up
-- Windows of the studio that are open now. A window whose instance ended is forgotten after a while.
CREATE UNLOGGED TABLE open_windows (
    id        uuid PRIMARY KEY,
    site_id   uuid NOT NULL CONSTRAINT open_windows_site REFERENCES sites,
    person_id uuid NOT NULL CONSTRAINT open_windows_person REFERENCES people,
    screen    text NOT NULL,
    entry_id  text NOT NULL, -- what is chosen or open there; empty: nothing
    since     timestamptz NOT NULL,
    seen_at   timestamptz NOT NULL
);
CREATE INDEX open_windows_seen ON open_windows (site_id, seen_at);
-- Who asked whoever holds a lock for it, and whether they said no.
ALTER TABLE locks ADD COLUMN asked_by uuid CONSTRAINT locks_asked_by REFERENCES people, ADD COLUMN asked_window uuid, ADD COLUMN asked_at timestamptz,
    ADD COLUMN declined boolean NOT NULL DEFAULT false;
ALTER TABLE locks ADD CONSTRAINT locks_asked CHECK ((asked_by IS NULL) = (asked_window IS NULL) AND (asked_by IS NULL) = (asked_at IS NULL));
-- +goose Down
ALTER TABLE locks DROP COLUMN asked_by, DROP COLUMN asked_window, DROP COLUMN asked_at, DROP COLUMN declined;
DROP TABLE open_windows;
