-- +goose Up
-- A request that somebody look at changes.
CREATE TABLE reviews (
    id          uuid PRIMARY KEY,
    site_id     uuid NOT NULL CONSTRAINT reviews_site REFERENCES sites,
    person_id   uuid NOT NULL CONSTRAINT reviews_person REFERENCES people,
    reviewer_id uuid CONSTRAINT reviews_reviewer REFERENCES people, -- NULL: whoever may publish
    message     text NOT NULL,
    due         date,
    at          timestamptz NOT NULL
);
-- Who is told what becomes of it, besides who sent it.
CREATE TABLE review_informed (
    review_id uuid NOT NULL CONSTRAINT review_informed_review REFERENCES reviews ON DELETE CASCADE,
    person_id uuid NOT NULL CONSTRAINT review_informed_person REFERENCES people,
    PRIMARY KEY (review_id, person_id)
);
-- Where a planned change was put. It holds for one wording of the change, told by the stamp: one
-- that was edited since is a draft again, without anybody writing that here.
CREATE TABLE change_states (
    site_id   uuid NOT NULL CONSTRAINT change_states_site REFERENCES sites,
    change_id text COLLATE "C" NOT NULL,
    aspect    text NOT NULL,
    state     text NOT NULL CONSTRAINT change_states_state CHECK (state IN ('draft', 'with reviewer', 'ready', 'timed')),
    stamp     text NOT NULL,
    person_id uuid NOT NULL CONSTRAINT change_states_person REFERENCES people,
    at        timestamptz NOT NULL,
    review_id uuid CONSTRAINT change_states_review REFERENCES reviews,
    word      text NOT NULL DEFAULT '',
    PRIMARY KEY (site_id, change_id, aspect)
);
-- Remarks on what is reviewed; they stay with it until it is published.
CREATE TABLE remarks (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    site_id    uuid NOT NULL CONSTRAINT remarks_site REFERENCES sites,
    change_id  text COLLATE "C" NOT NULL,
    place      text NOT NULL, -- the id of a block; empty: all of it
    answers    bigint CONSTRAINT remarks_answers REFERENCES remarks ON DELETE CASCADE,
    person_id  uuid NOT NULL CONSTRAINT remarks_person REFERENCES people,
    words      text NOT NULL CONSTRAINT remarks_words CHECK (words <> ''),
    at         timestamptz NOT NULL,
    settled_at timestamptz
);
CREATE INDEX remarks_change ON remarks (site_id, change_id);
-- What a branch asks of changes before they go out, where it says something else than the site.
CREATE TABLE branch_asks (
    site_id  uuid NOT NULL CONSTRAINT branch_asks_site REFERENCES sites,
    entry_id text COLLATE "C" NOT NULL,
    asks     text NOT NULL CONSTRAINT branch_asks_asks CHECK (asks IN ('', 'approval', 'four eyes')),
    PRIMARY KEY (site_id, entry_id),
    CONSTRAINT branch_asks_entry FOREIGN KEY (site_id, entry_id) REFERENCES entries (site_id, id)
);
-- +goose Down
DROP TABLE branch_asks, remarks, change_states, review_informed, reviews;
