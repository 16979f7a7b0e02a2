-- +goose Up
-- What somebody picked of the planned changes for the next edition, and why it
-- is to go out: theirs alone, until they publish.
CREATE TABLE edition_choices (
    site_id   uuid NOT NULL REFERENCES sites,
    person_id uuid NOT NULL REFERENCES people,
    why       text NOT NULL,
    choice    jsonb,
    PRIMARY KEY (site_id, person_id)
);
-- +goose Down
DROP TABLE edition_choices;
