-- +goose Up
-- How people look at the outline: filters, columns and sorting, as in its URL.
CREATE TABLE saved_views (
    site_id   uuid NOT NULL REFERENCES sites,
    person_id uuid NOT NULL REFERENCES people,
    name      text NOT NULL,
    query     text NOT NULL,
    PRIMARY KEY (site_id, person_id, name)
);
-- +goose Down
DROP TABLE saved_views;
