-- +goose Up
-- Which versions show which pictures: theirs is the readership of the pages that
-- show them.
CREATE TABLE page_pictures (
    version_id uuid NOT NULL REFERENCES page_versions ON DELETE CASCADE,
    picture_id text NOT NULL,
    PRIMARY KEY (picture_id, version_id)
);
CREATE INDEX page_pictures_version ON page_pictures (version_id);
INSERT INTO page_pictures (version_id, picture_id)
    SELECT DISTINCT v.id, m[1] FROM page_versions v CROSS JOIN LATERAL regexp_matches(v.content::text, '/files/([0-9a-f]{32})/', 'g') AS m;
-- +goose Down
DROP TABLE page_pictures;
