-- +goose Up
-- What checks need of a version as it was saved: the template it was held
-- against and what it breaks. Publishing then reads no content.
ALTER TABLE page_versions ADD COLUMN report jsonb NOT NULL DEFAULT '{}';
UPDATE page_versions v SET report = jsonb_build_object('template', e.template) FROM entry_rows e
WHERE e.site_id = v.site_id AND e.entry_id = v.entry_id AND v.from_edition >= e.from_edition AND (e.to_edition IS NULL OR v.from_edition < e.to_edition);

-- From which edition (inclusive) to which (exclusive) a version is what
-- readers get; a draft has no beginning. Kept apart from the versions, so that
-- publishing rewrites narrow rows, and a version can come back.
CREATE TABLE page_spans (
    site_id      uuid NOT NULL REFERENCES sites,
    entry_id     text NOT NULL,
    version_id   uuid NOT NULL REFERENCES page_versions ON DELETE CASCADE,
    from_edition integer,
    to_edition   integer,
    CHECK (to_edition IS NULL OR from_edition IS NOT NULL AND to_edition > from_edition)
);
INSERT INTO page_spans (site_id, entry_id, version_id, from_edition, to_edition)
    SELECT site_id, entry_id, id, from_edition, to_edition FROM page_versions;
CREATE UNIQUE INDEX page_spans_live ON page_spans (site_id, entry_id) WHERE from_edition IS NOT NULL AND to_edition IS NULL;
CREATE UNIQUE INDEX page_spans_draft ON page_spans (site_id, entry_id) WHERE from_edition IS NULL;
CREATE INDEX page_spans_version ON page_spans (version_id) WHERE to_edition IS NULL;
DROP INDEX page_versions_live, page_versions_draft, page_versions_entry;
ALTER TABLE page_versions DROP COLUMN from_edition, DROP COLUMN to_edition;
CREATE INDEX page_versions_entry ON page_versions (site_id, entry_id);
-- +goose Down
ALTER TABLE page_versions ADD COLUMN from_edition integer, ADD COLUMN to_edition integer;
DROP INDEX page_versions_entry;
UPDATE page_versions v SET from_edition = s.from_edition, to_edition = s.to_edition FROM page_spans s WHERE s.version_id = v.id;
CREATE UNIQUE INDEX page_versions_live ON page_versions (site_id, entry_id) WHERE from_edition IS NOT NULL AND to_edition IS NULL;
CREATE UNIQUE INDEX page_versions_draft ON page_versions (site_id, entry_id) WHERE from_edition IS NULL;
CREATE INDEX page_versions_entry ON page_versions (site_id, entry_id, from_edition);
DROP TABLE page_spans;
ALTER TABLE page_versions DROP COLUMN report;
