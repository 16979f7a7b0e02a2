-- +goose Up
-- Who could read a page when it was removed: others are told at its addresses that there is nothing, whatever its
-- visitors are redirected to. Pages that everybody could read, and those that are back, have no row.
CREATE TABLE withheld (
    site_id    uuid NOT NULL CONSTRAINT withheld_site REFERENCES sites,
    entry_id   text NOT NULL,
    readership jsonb NOT NULL,
    PRIMARY KEY (site_id, entry_id)
);
-- +goose Down
DROP TABLE withheld;
