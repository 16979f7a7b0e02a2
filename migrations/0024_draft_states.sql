-- +goose Up
-- Earlier states of drafts: what a text was at a time, kept as people write, thinned out as they age.
CREATE TABLE draft_states (
    id        uuid PRIMARY KEY,
    site_id   uuid NOT NULL,
    entry_id  text NOT NULL,
    person_id uuid NOT NULL CONSTRAINT draft_states_person REFERENCES people,
    at        timestamptz NOT NULL,
    begun_at  timestamptz NOT NULL CHECK (begun_at <= at),
    content   jsonb NOT NULL,
    CONSTRAINT draft_states_of FOREIGN KEY (site_id, entry_id) REFERENCES entries ON DELETE CASCADE
);
CREATE INDEX draft_states_entry ON draft_states (site_id, entry_id, at DESC);

-- +goose Down
DROP TABLE draft_states;
