-- +goose Up
-- Every entry that there ever was: what tells of an entry refers to it. A row stays when the entry leaves the sitemap, because history tells of it.
CREATE TABLE entries (
    site_id uuid NOT NULL REFERENCES sites,
    id      text NOT NULL CHECK (id <> ''),
    PRIMARY KEY (site_id, id)
);
INSERT INTO entries (site_id, id)
    SELECT site_id, entry_id FROM entry_rows UNION SELECT site_id, entry_id FROM addresses UNION SELECT site_id, entry_id FROM page_versions
    UNION SELECT site_id, entry_id FROM page_spans UNION SELECT site_id, entry_id FROM decisions UNION SELECT site_id, entry_id FROM locks
    UNION SELECT site_id, entry_id FROM kept_texts UNION SELECT site_id, entry_id FROM page_sources UNION SELECT site_id, entry_id FROM brought_ids
    UNION SELECT site_id, entry_id FROM deleted_entries UNION SELECT site_id, a FROM different_pages UNION SELECT site_id, b FROM different_pages;
ALTER TABLE entry_rows ADD CONSTRAINT entry_rows_of FOREIGN KEY (site_id, entry_id) REFERENCES entries;
ALTER TABLE addresses ADD CONSTRAINT addresses_of FOREIGN KEY (site_id, entry_id) REFERENCES entries;
-- An act may write the text of a page before the page itself.
ALTER TABLE page_versions ADD CONSTRAINT page_versions_of FOREIGN KEY (site_id, entry_id) REFERENCES entries DEFERRABLE INITIALLY DEFERRED;
ALTER TABLE page_versions ADD CONSTRAINT page_versions_one UNIQUE (id, site_id, entry_id);
ALTER TABLE page_spans ADD CONSTRAINT page_spans_of FOREIGN KEY (version_id, site_id, entry_id) REFERENCES page_versions (id, site_id, entry_id) ON DELETE CASCADE;
ALTER TABLE page_spans DROP CONSTRAINT page_spans_version_id_fkey;
ALTER TABLE decisions ADD CONSTRAINT decisions_of FOREIGN KEY (site_id, entry_id) REFERENCES entries;
ALTER TABLE locks ADD CONSTRAINT locks_of FOREIGN KEY (site_id, entry_id) REFERENCES entries;
ALTER TABLE kept_texts ADD CONSTRAINT kept_texts_of FOREIGN KEY (site_id, entry_id) REFERENCES entries;
ALTER TABLE page_sources ADD CONSTRAINT page_sources_of FOREIGN KEY (site_id, entry_id) REFERENCES entries;
ALTER TABLE deleted_entries ADD CONSTRAINT deleted_entries_of FOREIGN KEY (site_id, entry_id) REFERENCES entries;
ALTER TABLE different_pages ADD CONSTRAINT different_pages_a FOREIGN KEY (site_id, a) REFERENCES entries, ADD CONSTRAINT different_pages_b FOREIGN KEY (site_id, b) REFERENCES entries;

-- What went, to be found without looking at what is there.
CREATE INDEX entry_rows_ended ON entry_rows (site_id, entry_id, to_edition) WHERE to_edition IS NOT NULL;

-- The links of each version, in reading order: what links to an entry is found without reading any text.
CREATE TABLE page_links (
    version_id uuid NOT NULL REFERENCES page_versions ON DELETE CASCADE,
    place      integer NOT NULL,
    site_id    uuid NOT NULL,
    target     text NOT NULL,
    to_entry   text,
    words      text NOT NULL,
    tile       boolean NOT NULL,
    PRIMARY KEY (version_id, place),
    CONSTRAINT page_links_to FOREIGN KEY (site_id, to_entry) REFERENCES entries,
    CONSTRAINT page_links_page CHECK (to_entry IS NULL OR target LIKE 'page:%')
);
INSERT INTO page_links (version_id, place, site_id, target, to_entry, words, tile)
    SELECT v.id, l.place, v.site_id, l.link ->> 'to', e.id, coalesce(l.link ->> 'text', ''), coalesce((l.link ->> 'tile')::boolean, false)
    FROM page_versions v CROSS JOIN jsonb_array_elements(v.links) WITH ORDINALITY AS l(link, place)
    LEFT JOIN entries e ON e.site_id = v.site_id AND l.link ->> 'to' LIKE 'page:%' AND e.id = split_part(substr(l.link ->> 'to', 6), '#', 1)
    WHERE jsonb_typeof(v.links) = 'array';
CREATE INDEX page_links_entry ON page_links (site_id, to_entry) WHERE to_entry IS NOT NULL;
ALTER TABLE page_versions DROP COLUMN links;
-- +goose StatementBegin
CREATE FUNCTION refuse_shown_link() RETURNS trigger LANGUAGE plpgsql AS $$
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

-- Large values are compressed several times faster by lz4.
ALTER TABLE acts ALTER COLUMN patches SET COMPRESSION lz4, ALTER COLUMN texts SET COMPRESSION lz4;
ALTER TABLE page_versions ALTER COLUMN content SET COMPRESSION lz4;
ALTER TABLE page_words ALTER COLUMN plain SET COMPRESSION lz4;
ALTER TABLE bring_ins ALTER COLUMN sheet SET COMPRESSION lz4;

-- +goose Down
ALTER TABLE bring_ins ALTER COLUMN sheet SET COMPRESSION DEFAULT;
ALTER TABLE page_words ALTER COLUMN plain SET COMPRESSION DEFAULT;
ALTER TABLE page_versions ALTER COLUMN content SET COMPRESSION DEFAULT;
ALTER TABLE acts ALTER COLUMN patches SET COMPRESSION DEFAULT, ALTER COLUMN texts SET COMPRESSION DEFAULT;
ALTER TABLE page_versions ADD COLUMN links jsonb NOT NULL DEFAULT '[]';
SELECT set_config('candlepath.deleting', 'on', false);
UPDATE page_versions v SET links = l.links FROM (SELECT version_id, jsonb_agg(jsonb_build_object('to', target, 'text', words, 'tile', tile) ORDER BY place) AS links
    FROM page_links GROUP BY version_id) l WHERE l.version_id = v.id;
SELECT set_config('candlepath.deleting', '', false);
ALTER TABLE page_versions ALTER COLUMN links DROP DEFAULT;
DROP TABLE page_links;
DROP FUNCTION refuse_shown_link;
DROP INDEX entry_rows_ended;
ALTER TABLE page_spans ADD CONSTRAINT page_spans_version_id_fkey FOREIGN KEY (version_id) REFERENCES page_versions ON DELETE CASCADE;
ALTER TABLE page_spans DROP CONSTRAINT page_spans_of;
ALTER TABLE page_versions DROP CONSTRAINT page_versions_one, DROP CONSTRAINT page_versions_of;
ALTER TABLE entry_rows DROP CONSTRAINT entry_rows_of;
ALTER TABLE addresses DROP CONSTRAINT addresses_of;
ALTER TABLE decisions DROP CONSTRAINT decisions_of;
ALTER TABLE locks DROP CONSTRAINT locks_of;
ALTER TABLE kept_texts DROP CONSTRAINT kept_texts_of;
ALTER TABLE page_sources DROP CONSTRAINT page_sources_of;
ALTER TABLE deleted_entries DROP CONSTRAINT deleted_entries_of;
ALTER TABLE different_pages DROP CONSTRAINT different_pages_a, DROP CONSTRAINT different_pages_b;
DROP TABLE entries;
