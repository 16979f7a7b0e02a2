-- +goose Up
-- Drafts that are not rendered yet: few, looked for every few seconds and by every edition.
CREATE INDEX page_versions_bare ON page_versions (site_id) WHERE octet_length(body) = 0;
-- +goose Down
DROP INDEX page_versions_bare;
