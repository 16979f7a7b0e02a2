-- +goose Up
-- A topic is named once; which topics an entry has are rows, in their order.
CREATE TABLE topics (
    id      bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    site_id uuid NOT NULL REFERENCES sites,
    name    text NOT NULL CONSTRAINT topics_name_check CHECK (name = btrim(name) AND name <> '' AND name !~ '[;|,]'),
    CONSTRAINT topics_name UNIQUE (site_id, name)
);
CREATE TABLE entry_topics (
    row_id   bigint NOT NULL CONSTRAINT entry_topics_of REFERENCES entry_rows ON DELETE CASCADE,
    place    integer NOT NULL,
    topic_id bigint NOT NULL CONSTRAINT entry_topics_topic REFERENCES topics,
    PRIMARY KEY (row_id, place),
    CONSTRAINT entry_topics_once UNIQUE (row_id, topic_id)
);
CREATE INDEX entry_topics_of_topic ON entry_topics (topic_id);
CREATE TEMP TABLE told AS
    SELECT DISTINCT ON (r.id, name) r.id, r.site_id, t.place, name
    FROM entry_rows r CROSS JOIN regexp_split_to_table(r.topics, '[;|,]') WITH ORDINALITY AS t(raw, place) CROSS JOIN btrim(t.raw) AS name
    WHERE r.topics <> '' AND name <> '' ORDER BY r.id, name, t.place;
INSERT INTO topics (site_id, name) SELECT DISTINCT site_id, name FROM told;
INSERT INTO entry_topics (row_id, place, topic_id) SELECT o.id, o.place, t.id FROM told o JOIN topics t ON t.site_id = o.site_id AND t.name = o.name;
DROP TABLE told;
ALTER TABLE entry_rows DROP COLUMN topics;
-- +goose StatementBegin
CREATE FUNCTION refuse_told_topic() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF EXISTS (SELECT 1 FROM entry_rows WHERE id = OLD.row_id AND from_edition IS NOT NULL)
        AND coalesce(current_setting('candlepath.deleting', true), '') <> 'on' THEN
        RAISE EXCEPTION 'the topics of a row of entry_rows that an edition shows cannot be changed'
            USING ERRCODE = 'integrity_constraint_violation', CONSTRAINT = 'entry_topics_history';
    END IF;
    RETURN coalesce(NEW, OLD);
END $$;
CREATE FUNCTION refuse_late_topic() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF EXISTS (SELECT 1 FROM written w JOIN entry_rows r ON r.id = w.row_id
        WHERE r.from_edition < (SELECT max(number) FROM editions e WHERE e.site_id = r.site_id)) THEN
        RAISE EXCEPTION 'the topics of a row of entry_rows that an edition shows cannot be changed'
            USING ERRCODE = 'integrity_constraint_violation', CONSTRAINT = 'entry_topics_history';
    END IF;
    RETURN NULL;
END $$;
-- +goose StatementEnd
CREATE TRIGGER entry_topics_kept BEFORE UPDATE OR DELETE ON entry_topics FOR EACH ROW EXECUTE FUNCTION refuse_told_topic();
CREATE TRIGGER entry_topics_late AFTER INSERT ON entry_topics REFERENCING NEW TABLE AS written FOR EACH STATEMENT EXECUTE FUNCTION refuse_late_topic();

-- What refers to an entry refers to its site by that: a second key to the site said the same again, for every row.
ALTER TABLE entry_rows DROP CONSTRAINT entry_rows_site_id_fkey;
ALTER TABLE addresses DROP CONSTRAINT addresses_site_id_fkey;
ALTER TABLE decisions DROP CONSTRAINT decisions_site_id_fkey;
ALTER TABLE page_versions DROP CONSTRAINT page_versions_site_id_fkey;
ALTER TABLE page_spans DROP CONSTRAINT page_spans_site_id_fkey;
ALTER TABLE locks DROP CONSTRAINT locks_site_id_fkey;
ALTER TABLE kept_texts DROP CONSTRAINT kept_texts_site_id_fkey;
ALTER TABLE page_sources DROP CONSTRAINT page_sources_site_id_fkey;
ALTER TABLE different_pages DROP CONSTRAINT different_pages_site_id_fkey;
ALTER TABLE deleted_entries DROP CONSTRAINT deleted_entries_site_id_fkey;
ALTER TABLE brought_ids DROP CONSTRAINT brought_ids_site_id_fkey, ADD CONSTRAINT brought_ids_of FOREIGN KEY (site_id, entry_id) REFERENCES entries;

-- +goose Down
ALTER TABLE brought_ids DROP CONSTRAINT brought_ids_of, ADD FOREIGN KEY (site_id) REFERENCES sites;
ALTER TABLE deleted_entries ADD FOREIGN KEY (site_id) REFERENCES sites;
ALTER TABLE different_pages ADD FOREIGN KEY (site_id) REFERENCES sites;
ALTER TABLE page_sources ADD FOREIGN KEY (site_id) REFERENCES sites;
ALTER TABLE kept_texts ADD FOREIGN KEY (site_id) REFERENCES sites;
ALTER TABLE locks ADD FOREIGN KEY (site_id) REFERENCES sites;
ALTER TABLE page_spans ADD FOREIGN KEY (site_id) REFERENCES sites;
ALTER TABLE page_versions ADD FOREIGN KEY (site_id) REFERENCES sites;
ALTER TABLE decisions ADD FOREIGN KEY (site_id) REFERENCES sites;
ALTER TABLE addresses ADD FOREIGN KEY (site_id) REFERENCES sites;
ALTER TABLE entry_rows ADD FOREIGN KEY (site_id) REFERENCES sites;
ALTER TABLE entry_rows ADD COLUMN topics text NOT NULL DEFAULT '';
ALTER TABLE entry_rows DISABLE TRIGGER USER;
UPDATE entry_rows r SET topics = o.topics FROM (SELECT e.row_id, string_agg(t.name, '; ' ORDER BY e.place) AS topics
    FROM entry_topics e JOIN topics t ON t.id = e.topic_id GROUP BY e.row_id) o WHERE o.row_id = r.id;
ALTER TABLE entry_rows ENABLE TRIGGER USER;
ALTER TABLE entry_rows ALTER COLUMN topics DROP DEFAULT;
DROP TABLE entry_topics, topics;
DROP FUNCTION refuse_told_topic, refuse_late_topic;
