-- +goose Up
-- How often addresses were asked for that answered nothing, by the page on which the link
-- stood. It tells nothing of who asked.
CREATE TABLE unanswered (
    site_id uuid NOT NULL CONSTRAINT unanswered_site REFERENCES sites,
    address text COLLATE "C" NOT NULL,
    page    text COLLATE "C" NOT NULL,
    day     date NOT NULL,
    n       integer NOT NULL CONSTRAINT unanswered_n CHECK (n > 0),
    PRIMARY KEY (site_id, address, page, day)
);
CREATE INDEX unanswered_day ON unanswered (site_id, day);
-- +goose Down
DROP TABLE unanswered;
