-- +goose Up
-- Spans of one thing cannot overlap: at most one is open (the unique indexes), a span opens at the latest edition, and it is
-- closed at the latest edition, once. So what opens next begins where the last one ended, or later. One look at each
-- statement guards that; an exclusion constraint would look up every row in a GiST index (16 times the time of the insert).

-- +goose StatementBegin
CREATE FUNCTION refuse_odd_span() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE
    odd integer;
    latest integer;
BEGIN
    -- A statement writes rows of one site.
    SELECT max(number) INTO latest FROM editions WHERE site_id = (SELECT site_id FROM written LIMIT 1);
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

CREATE TRIGGER page_spans_opened AFTER INSERT ON page_spans REFERENCING NEW TABLE AS written FOR EACH STATEMENT EXECUTE FUNCTION refuse_odd_span();
CREATE TRIGGER page_spans_turned AFTER UPDATE ON page_spans REFERENCING NEW TABLE AS written FOR EACH STATEMENT EXECUTE FUNCTION refuse_odd_span();
CREATE TRIGGER entry_rows_opened AFTER INSERT ON entry_rows REFERENCING NEW TABLE AS written FOR EACH STATEMENT EXECUTE FUNCTION refuse_odd_span();
CREATE TRIGGER entry_rows_turned AFTER UPDATE ON entry_rows REFERENCING NEW TABLE AS written FOR EACH STATEMENT EXECUTE FUNCTION refuse_odd_span();
CREATE TRIGGER way_rows_opened AFTER INSERT ON way_rows REFERENCING NEW TABLE AS written FOR EACH STATEMENT EXECUTE FUNCTION refuse_odd_span();
CREATE TRIGGER way_rows_turned AFTER UPDATE ON way_rows REFERENCING NEW TABLE AS written FOR EACH STATEMENT EXECUTE FUNCTION refuse_odd_span();
CREATE TRIGGER addresses_opened AFTER INSERT ON addresses REFERENCING NEW TABLE AS written FOR EACH STATEMENT EXECUTE FUNCTION refuse_odd_span();
CREATE TRIGGER addresses_turned AFTER UPDATE ON addresses REFERENCING NEW TABLE AS written FOR EACH STATEMENT EXECUTE FUNCTION refuse_odd_span();
CREATE TRIGGER redirects_opened AFTER INSERT ON redirects REFERENCING NEW TABLE AS written FOR EACH STATEMENT EXECUTE FUNCTION refuse_odd_span();
CREATE TRIGGER redirects_turned AFTER UPDATE ON redirects REFERENCING NEW TABLE AS written FOR EACH STATEMENT EXECUTE FUNCTION refuse_odd_span();

-- +goose Down
DROP FUNCTION refuse_odd_span CASCADE;
