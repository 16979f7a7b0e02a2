-- +goose Up
-- What an instance caches depends on named parts of the work. Each has a number that changes in the
-- transaction that changes it: the sum of its stripes. A statement notes its part once a transaction,
-- and the number is raised at commit, so that transactions do not wait for each other: two meet in a
-- row only where their stripes are the same, and then only while the first one commits.
CREATE TABLE work_versions (
    part    text NOT NULL,
    stripe  integer NOT NULL,
    version bigint NOT NULL DEFAULT 0,
    PRIMARY KEY (part, stripe)
) WITH (fillfactor = 50);
INSERT INTO work_versions (part, stripe)
SELECT part, stripe FROM unnest(ARRAY['plan', 'drafts', 'shapes', 'reviews', 'people', 'files', 'editions', 'old_sites']) AS part, generate_series(0, 15) AS stripe;

-- One row while a transaction that changed something commits; nobody else ever sees it.
CREATE UNLOGGED TABLE work_touched (id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY) WITH (autovacuum_vacuum_threshold = 500, autovacuum_vacuum_scale_factor = 0);

-- +goose StatementBegin
CREATE FUNCTION touch_work() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE touched text := coalesce(current_setting('candlepath.touched', true), '');
DECLARE part text;
BEGIN
    FOREACH part IN ARRAY TG_ARGV LOOP
        IF position(' ' || part || ' ' IN touched) = 0 THEN
            IF touched = '' THEN
                INSERT INTO work_touched DEFAULT VALUES;
            END IF;
            touched := touched || ' ' || part || ' ';
            PERFORM set_config('candlepath.touched', touched, true);
        END IF;
    END LOOP;
    RETURN NULL;
END $$;
-- +goose StatementEnd

-- +goose StatementBegin
CREATE FUNCTION raise_work() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE touched text := coalesce(current_setting('candlepath.touched', true), '');
BEGIN
    PERFORM 1 FROM work_versions WHERE part = ANY (string_to_array(touched, ' ')) AND stripe = pg_backend_pid() % 16 ORDER BY part FOR NO KEY UPDATE;
    UPDATE work_versions SET version = version + 1 WHERE part = ANY (string_to_array(touched, ' ')) AND stripe = pg_backend_pid() % 16;
    DELETE FROM work_touched WHERE id = NEW.id;
    PERFORM set_config('candlepath.touched', '', true);
    RETURN NULL;
END $$;
-- +goose StatementEnd

CREATE CONSTRAINT TRIGGER work_raised AFTER INSERT ON work_touched DEFERRABLE INITIALLY DEFERRED FOR EACH ROW EXECUTE FUNCTION raise_work();

-- +goose StatementBegin
DO $$
DECLARE t record;
BEGIN
    FOR t IN SELECT * FROM (VALUES
        ('acts', 'plan'), ('decisions', 'plan'), ('entry_rows', 'plan'), ('left_out', 'plan'), ('planned_redirects', 'plan'), ('releases', 'plan'), ('deleted_entries', 'plan'),
        ('page_spans', 'drafts'), ('page_versions', 'drafts'), ('page_links', 'drafts'), ('page_pictures', 'drafts'),
        ('shape_rows', 'shapes'), ('template_drafts', 'shapes'),
        ('branch_asks', 'reviews'), ('change_states', 'reviews'), ('freezes', 'reviews'), ('review_informed', 'reviews'), ('reviews', 'reviews'), ('withdrawals', 'reviews'),
        ('people', 'people'), ('files', 'files'), ('editions', 'editions'), ('older_addresses', 'old_sites')) AS v(name, part)
    LOOP
        EXECUTE format('CREATE TRIGGER work_touched AFTER INSERT OR UPDATE OR DELETE OR TRUNCATE ON %I FOR EACH STATEMENT EXECUTE FUNCTION touch_work(%L)', t.name, t.part);
    END LOOP;
END $$;
-- +goose StatementEnd

-- Titles are searched as an edition had them, which need not be the newest.
DROP INDEX entry_rows_title;
CREATE INDEX entry_rows_title ON entry_rows USING gin (to_tsvector('english', title)) WHERE from_edition IS NOT NULL;
-- +goose Down
DROP INDEX entry_rows_title;
CREATE INDEX entry_rows_title ON entry_rows USING gin (to_tsvector('english', title)) WHERE from_edition IS NOT NULL AND to_edition IS NULL;
-- +goose StatementBegin
DO $$
DECLARE t record;
BEGIN
    FOR t IN SELECT DISTINCT event_object_table AS name FROM information_schema.triggers WHERE trigger_name = 'work_touched' LOOP
        EXECUTE format('DROP TRIGGER work_touched ON %I', t.name);
    END LOOP;
END $$;
-- +goose StatementEnd
DROP TABLE work_touched, work_versions;
DROP FUNCTION touch_work(), raise_work();
