-- +goose Up
-- Every step of what is planned on its way out: who put it where, and with which word. It stays when the change is out.
CREATE TABLE change_history (
    id        bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    site_id   uuid NOT NULL CONSTRAINT change_history_site REFERENCES sites,
    change_id text COLLATE "C" NOT NULL,
    state     text NOT NULL CONSTRAINT change_history_state CHECK (state IN ('draft', 'with reviewer', 'ready', 'timed')),
    person_id uuid NOT NULL CONSTRAINT change_history_person REFERENCES people,
    word      text NOT NULL,
    go_at     timestamptz,
    at        timestamptz NOT NULL
);
CREATE INDEX change_history_of ON change_history (site_id, change_id, id);
CREATE INDEX editions_told ON editions USING gin (told jsonb_path_ops);
-- A request may be made to a role: anybody of it takes it.
ALTER TABLE reviews ADD COLUMN reviewer_role text NOT NULL DEFAULT '';
ALTER TABLE reviews ADD CONSTRAINT reviews_one CHECK (reviewer_id IS NULL OR reviewer_role = '');
-- +goose Down
ALTER TABLE reviews DROP COLUMN reviewer_role;
DROP INDEX editions_told;
DROP TABLE change_history;
