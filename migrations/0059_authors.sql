-- +goose Up
-- Who made what: each act and each saved text adds to it, and nothing takes away from it but that the change
-- goes out, which is noted, or is no longer planned. A restored edition opens again what went out since.
CREATE TABLE authors (
    site_id   uuid NOT NULL CONSTRAINT authors_site REFERENCES sites,
    change_id text COLLATE "C" NOT NULL,
    aspect    text NOT NULL,
    person_id uuid NOT NULL CONSTRAINT authors_person REFERENCES people,
    at        timestamptz NOT NULL,
    out_in    integer -- the edition in which it went out; NULL: it is planned
);
CREATE UNIQUE INDEX authors_open ON authors (site_id, change_id, aspect, person_id) WHERE out_in IS NULL;
CREATE INDEX authors_out ON authors (site_id, out_in) WHERE out_in IS NOT NULL;
CREATE TRIGGER work_touched AFTER INSERT OR UPDATE OR DELETE OR TRUNCATE ON authors FOR EACH STATEMENT EXECUTE FUNCTION touch_work('reviews');

INSERT INTO authors (site_id, change_id, aspect, person_id, at)
SELECT d.site_id, d.entry_id, 'content', d.person_id, max(d.at) FROM draft_states d
LEFT JOIN page_spans l ON l.site_id = d.site_id AND l.entry_id = d.entry_id AND l.from_edition IS NOT NULL AND l.to_edition IS NULL
LEFT JOIN editions e ON e.site_id = l.site_id AND e.number = l.from_edition
WHERE e.published_at IS NULL OR d.at > e.published_at GROUP BY 1, 2, 4
UNION SELECT s.site_id, s.entry_id, 'content', v.person_id, v.changed_at FROM page_spans s JOIN page_versions v ON v.id = s.version_id WHERE s.from_edition IS NULL
ON CONFLICT DO NOTHING;
-- Of what was planned before, it is known only who planned something of each thing: it counts for all aspects.
INSERT INTO authors (site_id, change_id, aspect, person_id, at)
SELECT a.site_id, coalesce(p ->> 'ID', p ->> 'EntryID'), '', a.person_id, max(a.at) FROM acts a
CROSS JOIN LATERAL jsonb_array_elements(a.patches || a.shapes || a.redirects || a.texts) p WHERE a.state = 'done' GROUP BY 1, 2, 4
ON CONFLICT DO NOTHING;

-- Whether somebody approved what is scheduled, or it was scheduled as a draft where nothing is asked.
ALTER TABLE change_states ADD COLUMN approved boolean NOT NULL DEFAULT true;
-- +goose Down
ALTER TABLE change_states DROP COLUMN approved;
DROP TABLE authors;
