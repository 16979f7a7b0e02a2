-- +goose Up
-- How often readers opened a page, a day. Nothing is kept of who they are.
CREATE TABLE visits (
    site_id  uuid NOT NULL REFERENCES sites,
    entry_id text NOT NULL,
    day      date NOT NULL,
    n        integer NOT NULL,
    PRIMARY KEY (site_id, entry_id, day)
);
CREATE INDEX visits_day ON visits (site_id, day);
-- +goose Down
DROP TABLE visits;
