-- +goose Up
-- How often redirects answered, by day. It tells nothing of who asked.
CREATE TABLE redirect_hits (
    site_id uuid NOT NULL CONSTRAINT redirect_hits_site REFERENCES sites,
    key     text COLLATE "C" NOT NULL,
    day     date NOT NULL,
    n       integer NOT NULL CONSTRAINT redirect_hits_n CHECK (n > 0),
    PRIMARY KEY (site_id, key, day)
);
-- +goose Down
DROP TABLE redirect_hits;
