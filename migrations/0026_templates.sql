-- +goose Up
-- Templates are changes of an edition like menus and trails, and stand where those stand.
ALTER TABLE way_rows RENAME TO shape_rows;
ALTER TABLE shape_rows RENAME COLUMN way_id TO shape_id;
ALTER TABLE shape_rows RENAME COLUMN way TO shape;
ALTER TABLE acts RENAME COLUMN ways TO shapes;
-- +goose StatementBegin
DO $$
DECLARE
    r record;
BEGIN
    FOR r IN SELECT conname AS name FROM pg_constraint WHERE conrelid = 'shape_rows'::regclass AND conname LIKE 'way\_rows%' AND contype <> 'n' LOOP
        EXECUTE format('ALTER TABLE shape_rows RENAME CONSTRAINT %I TO %I', r.name, replace(r.name, 'way_rows', 'shape_rows'));
    END LOOP;
    FOR r IN SELECT indexname AS name FROM pg_indexes WHERE tablename = 'shape_rows' AND indexname LIKE 'way\_rows%' LOOP
        EXECUTE format('ALTER INDEX %I RENAME TO %I', r.name, replace(r.name, 'way_rows', 'shape_rows'));
    END LOOP;
    FOR r IN SELECT tgname AS name FROM pg_trigger WHERE tgrelid = 'shape_rows'::regclass AND tgname LIKE 'way\_rows%' LOOP
        EXECUTE format('ALTER TRIGGER %I ON shape_rows RENAME TO %I', r.name, replace(r.name, 'way_rows', 'shape_rows'));
    END LOOP;
END $$;
-- What a new site begins with is there before its first edition: from edition 0.
CREATE OR REPLACE FUNCTION refuse_odd_span() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE
    odd integer;
    latest integer;
BEGIN
    -- A statement writes rows of one site.
    SELECT coalesce(max(number), 0) INTO latest FROM editions WHERE site_id = (SELECT site_id FROM written LIMIT 1);
    SELECT coalesce(r.to_edition, r.from_edition) INTO odd FROM written r
        WHERE r.from_edition IS NOT NULL
        AND (TG_OP = 'INSERT' AND r.to_edition IS NOT NULL OR coalesce(r.to_edition, r.from_edition) IS DISTINCT FROM latest)
        LIMIT 1;
    IF FOUND AND coalesce(current_setting('candlepath.deleting', true), '') <> 'on' THEN
        RAISE EXCEPTION 'a row of % begins or ends at edition %, which is not the latest', TG_TABLE_NAME, odd
            USING ERRCODE = 'integrity_constraint_violation', CONSTRAINT = TG_TABLE_NAME || '_span';
    END IF;
    RETURN NULL;
END $$;
-- +goose StatementEnd
ALTER TABLE shape_rows DISABLE TRIGGER shape_rows_opened;
INSERT INTO shape_rows (site_id, shape_id, shape, changed_at, from_edition)
    SELECT site_id, 'template:' || key, jsonb_build_object('template', definition || jsonb_build_object('order', position + 1, 'parts', (
        SELECT coalesce(jsonb_agg((p - 'blocks' - 'text')
            || CASE WHEN p ? 'blocks' THEN jsonb_build_object('takes', p -> 'blocks') ELSE '{}' END
            || CASE WHEN p ? 'text' THEN jsonb_build_object('content', jsonb_build_array(jsonb_build_object('type', 'text', 'text', p -> 'text'))) ELSE '{}' END
            ORDER BY n), '[]')
        FROM jsonb_array_elements(definition -> 'parts') WITH ORDINALITY AS x(p, n)))), 'epoch', 0
    FROM templates;
ALTER TABLE shape_rows ENABLE TRIGGER shape_rows_opened;
DROP TABLE templates;
CREATE INDEX shape_rows_history ON shape_rows (site_id, shape_id, from_edition);

-- A template that somebody is changing, before the change is planned: each has their own.
CREATE TABLE template_drafts (
    site_id    uuid NOT NULL REFERENCES sites,
    person_id  uuid NOT NULL REFERENCES people,
    key        text NOT NULL CHECK (key <> ''),
    page       jsonb NOT NULL,
    base       text NOT NULL, -- the form of the template that it was made from; empty: of none
    version    integer NOT NULL CHECK (version > 0),
    changed_at timestamptz NOT NULL,
    PRIMARY KEY (site_id, person_id, key)
);

-- A file that was replaced says by which; what asks for it at its old address is led there.
ALTER TABLE files ADD COLUMN replaced_by text;
ALTER TABLE files ADD CONSTRAINT files_replaced FOREIGN KEY (site_id, replaced_by) REFERENCES files ON DELETE SET NULL (replaced_by),
    ADD CONSTRAINT files_replaced_other CHECK (replaced_by <> id);

-- Pages that blocks take something from without linking to them.
ALTER TABLE page_links ADD COLUMN follows boolean NOT NULL DEFAULT false;
-- Links are guarded once a statement, not once a row.
DROP TRIGGER page_links_shown ON page_links;
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION refuse_shown_link() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE
    shown uuid;
BEGIN
    IF coalesce(current_setting('candlepath.deleting', true), '') = 'on' THEN
        RETURN NULL;
    END IF;
    SELECT t.version_id INTO shown FROM touched t WHERE EXISTS (SELECT 1 FROM page_spans s WHERE s.version_id = t.version_id AND s.from_edition IS NOT NULL) LIMIT 1;
    IF FOUND THEN
        RAISE EXCEPTION 'version % is shown by an edition', shown
            USING ERRCODE = 'integrity_constraint_violation', CONSTRAINT = 'page_links_shown';
    END IF;
    RETURN NULL;
END $$;
-- +goose StatementEnd
CREATE TRIGGER page_links_came AFTER INSERT ON page_links REFERENCING NEW TABLE AS touched FOR EACH STATEMENT EXECUTE FUNCTION refuse_shown_link();
CREATE TRIGGER page_links_went AFTER DELETE ON page_links REFERENCING OLD TABLE AS touched FOR EACH STATEMENT EXECUTE FUNCTION refuse_shown_link();
CREATE TRIGGER page_links_were AFTER UPDATE ON page_links REFERENCING OLD TABLE AS touched FOR EACH STATEMENT EXECUTE FUNCTION refuse_shown_link();
CREATE TRIGGER page_links_are AFTER UPDATE ON page_links REFERENCING NEW TABLE AS touched FOR EACH STATEMENT EXECUTE FUNCTION refuse_shown_link();
SELECT set_config('candlepath.deleting', 'on', false);
INSERT INTO page_links (version_id, place, site_id, target, to_entry, words, tile, follows)
    SELECT f.id, f.place + coalesce((SELECT max(l.place) FROM page_links l WHERE l.version_id = f.id), 0), f.site_id, f.target, e.id, '', false, true
    FROM (SELECT v.id, v.site_id, p.target, row_number() OVER (PARTITION BY v.id ORDER BY substr(p.target, 6) COLLATE "C") AS place
        FROM page_versions v CROSS JOIN LATERAL (SELECT DISTINCT t #>> '{}' AS target
            FROM jsonb_path_query(v.content -> 'slots', '$.**.of ? (@ starts with "page:")') AS q(t)) p) f
    LEFT JOIN entries e ON e.site_id = f.site_id AND e.id = split_part(substr(f.target, 6), '#', 1);
SELECT set_config('candlepath.deleting', '', false);
-- A version that shows the text of another, in another form of the template.
ALTER TABLE page_versions ADD COLUMN text_of uuid;
ALTER TABLE page_versions ADD CONSTRAINT page_versions_text_of FOREIGN KEY (text_of, site_id, entry_id) REFERENCES page_versions (id, site_id, entry_id);
CREATE INDEX page_versions_text ON page_versions (text_of) WHERE text_of IS NOT NULL;

-- +goose Down
DROP INDEX page_versions_text;
ALTER TABLE page_versions DROP COLUMN text_of;
SELECT set_config('candlepath.deleting', 'on', false);
DELETE FROM page_links WHERE follows;
SELECT set_config('candlepath.deleting', '', false);
ALTER TABLE page_links DROP COLUMN follows;
DROP TRIGGER page_links_came ON page_links;
DROP TRIGGER page_links_went ON page_links;
DROP TRIGGER page_links_were ON page_links;
DROP TRIGGER page_links_are ON page_links;
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION refuse_shown_link() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE
    link page_links := coalesce(NEW, OLD);
BEGIN
    IF EXISTS (SELECT 1 FROM page_spans WHERE version_id = link.version_id AND from_edition IS NOT NULL)
        AND coalesce(current_setting('candlepath.deleting', true), '') <> 'on' THEN
        RAISE EXCEPTION 'version % is shown by an edition', link.version_id
            USING ERRCODE = 'integrity_constraint_violation', CONSTRAINT = 'page_links_shown';
    END IF;
    RETURN link;
END $$;
-- +goose StatementEnd
CREATE TRIGGER page_links_shown BEFORE INSERT OR UPDATE OR DELETE ON page_links FOR EACH ROW EXECUTE FUNCTION refuse_shown_link();
ALTER TABLE files DROP COLUMN replaced_by;
DROP TABLE template_drafts;
DROP INDEX shape_rows_history;
CREATE TABLE templates (
    site_id    uuid NOT NULL REFERENCES sites,
    key        text NOT NULL,
    position   integer NOT NULL,
    definition jsonb NOT NULL,
    PRIMARY KEY (site_id, key)
);
INSERT INTO templates (site_id, key, position, definition)
    SELECT site_id, substr(shape_id, 10), row_number() OVER (PARTITION BY site_id ORDER BY (shape -> 'template' ->> 'order')::integer, shape_id) - 1,
        (shape -> 'template') - 'order' || jsonb_build_object('parts', (
            SELECT coalesce(jsonb_agg((p - 'takes' - 'content')
                || CASE WHEN p ? 'takes' THEN jsonb_build_object('blocks', p -> 'takes') ELSE '{}' END
                || CASE WHEN p ->> 'kind' = 'fixed' THEN jsonb_build_object('text', coalesce(p -> 'content' -> 0 -> 'text', '""')) ELSE '{}' END
                ORDER BY n), '[]')
            FROM jsonb_array_elements(shape -> 'template' -> 'parts') WITH ORDINALITY AS x(p, n)))
    FROM shape_rows WHERE shape_id LIKE 'template:%' AND from_edition IS NOT NULL AND to_edition IS NULL;
SELECT set_config('candlepath.deleting', 'on', false);
DELETE FROM shape_rows WHERE shape_id LIKE 'template:%';
SELECT set_config('candlepath.deleting', '', false);
ALTER TABLE acts RENAME COLUMN shapes TO ways;
ALTER TABLE shape_rows RENAME COLUMN shape TO way;
ALTER TABLE shape_rows RENAME COLUMN shape_id TO way_id;
ALTER TABLE shape_rows RENAME TO way_rows;
-- +goose StatementBegin
DO $$
DECLARE
    r record;
BEGIN
    FOR r IN SELECT conname AS name FROM pg_constraint WHERE conrelid = 'way_rows'::regclass AND conname LIKE 'shape\_rows%' AND contype <> 'n' LOOP
        EXECUTE format('ALTER TABLE way_rows RENAME CONSTRAINT %I TO %I', r.name, replace(r.name, 'shape_rows', 'way_rows'));
    END LOOP;
    FOR r IN SELECT indexname AS name FROM pg_indexes WHERE tablename = 'way_rows' AND indexname LIKE 'shape\_rows%' LOOP
        EXECUTE format('ALTER INDEX %I RENAME TO %I', r.name, replace(r.name, 'shape_rows', 'way_rows'));
    END LOOP;
    FOR r IN SELECT tgname AS name FROM pg_trigger WHERE tgrelid = 'way_rows'::regclass AND tgname LIKE 'shape\_rows%' LOOP
        EXECUTE format('ALTER TRIGGER %I ON way_rows RENAME TO %I', r.name, replace(r.name, 'shape_rows', 'way_rows'));
    END LOOP;
END $$;
-- +goose StatementEnd
