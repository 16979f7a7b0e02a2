-- +goose Up
-- What an edition shows never changes, whoever tries. A version can be written
-- while it is a draft; a row of history can be closed, once; an edition stands.

-- +goose StatementBegin
CREATE FUNCTION refuse_shown_version() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    -- An edition that is on its way out holds the span; wait and look again.
    PERFORM 1 FROM page_spans WHERE version_id = OLD.id FOR SHARE;
    IF EXISTS (SELECT 1 FROM page_spans WHERE version_id = OLD.id AND from_edition IS NOT NULL)
        AND coalesce(current_setting('candlepath.deleting', true), '') <> 'on' THEN
        RAISE EXCEPTION 'version % is shown by an edition', OLD.id
            USING ERRCODE = 'integrity_constraint_violation', CONSTRAINT = 'page_versions_shown';
    END IF;
    RETURN coalesce(NEW, OLD);
END $$;
-- +goose StatementEnd

-- +goose StatementBegin
CREATE FUNCTION refuse_history() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF coalesce(current_setting('candlepath.deleting', true), '') = 'on' THEN
        RETURN coalesce(NEW, OLD);
    END IF;
    RAISE EXCEPTION 'a row of % that an edition shows cannot be changed', TG_TABLE_NAME
        USING ERRCODE = 'integrity_constraint_violation', CONSTRAINT = TG_TABLE_NAME || '_history';
END $$;
-- +goose StatementEnd

DROP INDEX page_spans_version;
CREATE INDEX page_spans_version ON page_spans (version_id);

CREATE TRIGGER page_versions_shown BEFORE UPDATE OR DELETE ON page_versions FOR EACH ROW EXECUTE FUNCTION refuse_shown_version();

CREATE TRIGGER page_spans_closed BEFORE UPDATE ON page_spans FOR EACH ROW
    WHEN (OLD.from_edition IS NOT NULL AND (OLD.to_edition IS NOT NULL OR NEW.from_edition IS DISTINCT FROM OLD.from_edition OR NEW.version_id <> OLD.version_id))
    EXECUTE FUNCTION refuse_history();
CREATE TRIGGER entry_rows_closed BEFORE UPDATE ON entry_rows FOR EACH ROW
    WHEN (OLD.from_edition IS NOT NULL AND (OLD.to_edition IS NOT NULL OR NEW.from_edition IS DISTINCT FROM OLD.from_edition)) EXECUTE FUNCTION refuse_history();
CREATE TRIGGER way_rows_closed BEFORE UPDATE ON way_rows FOR EACH ROW
    WHEN (OLD.from_edition IS NOT NULL AND (OLD.to_edition IS NOT NULL OR NEW.from_edition IS DISTINCT FROM OLD.from_edition)) EXECUTE FUNCTION refuse_history();
CREATE TRIGGER addresses_closed BEFORE UPDATE ON addresses FOR EACH ROW
    WHEN (OLD.to_edition IS NOT NULL OR NEW.from_edition <> OLD.from_edition) EXECUTE FUNCTION refuse_history();
CREATE TRIGGER redirects_closed BEFORE UPDATE ON redirects FOR EACH ROW
    WHEN (OLD.to_edition IS NOT NULL OR NEW.from_edition <> OLD.from_edition) EXECUTE FUNCTION refuse_history();

CREATE TRIGGER page_spans_kept BEFORE DELETE ON page_spans FOR EACH ROW WHEN (OLD.from_edition IS NOT NULL) EXECUTE FUNCTION refuse_history();
CREATE TRIGGER entry_rows_kept BEFORE DELETE ON entry_rows FOR EACH ROW WHEN (OLD.from_edition IS NOT NULL) EXECUTE FUNCTION refuse_history();
CREATE TRIGGER way_rows_kept BEFORE DELETE ON way_rows FOR EACH ROW WHEN (OLD.from_edition IS NOT NULL) EXECUTE FUNCTION refuse_history();
CREATE TRIGGER addresses_kept BEFORE DELETE ON addresses FOR EACH ROW EXECUTE FUNCTION refuse_history();
CREATE TRIGGER redirects_kept BEFORE DELETE ON redirects FOR EACH ROW EXECUTE FUNCTION refuse_history();
CREATE TRIGGER editions_kept BEFORE UPDATE OR DELETE ON editions FOR EACH ROW EXECUTE FUNCTION refuse_history();

-- +goose Down
DROP TRIGGER editions_kept ON editions;
DROP TRIGGER redirects_kept ON redirects;
DROP TRIGGER addresses_kept ON addresses;
DROP TRIGGER way_rows_kept ON way_rows;
DROP TRIGGER entry_rows_kept ON entry_rows;
DROP TRIGGER page_spans_kept ON page_spans;
DROP TRIGGER redirects_closed ON redirects;
DROP TRIGGER addresses_closed ON addresses;
DROP TRIGGER way_rows_closed ON way_rows;
DROP TRIGGER entry_rows_closed ON entry_rows;
DROP TRIGGER page_spans_closed ON page_spans;
DROP TRIGGER page_versions_shown ON page_versions;
DROP INDEX page_spans_version;
CREATE INDEX page_spans_version ON page_spans (version_id) WHERE to_edition IS NULL;
DROP FUNCTION refuse_history, refuse_shown_version;
