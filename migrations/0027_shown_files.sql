-- +goose Up
-- What a file was called where it came from.
ALTER TABLE files ADD COLUMN given text NOT NULL DEFAULT '';
-- A file that a version shows cannot be deleted, also while that version is being saved.
DELETE FROM page_pictures p USING page_versions v
    WHERE v.id = p.version_id AND NOT EXISTS (SELECT 1 FROM files f WHERE f.site_id = v.site_id AND f.id = p.picture_id);
ALTER TABLE page_pictures ADD COLUMN site_id uuid;
UPDATE page_pictures p SET site_id = v.site_id FROM page_versions v WHERE v.id = p.version_id;
ALTER TABLE page_pictures ALTER COLUMN site_id SET NOT NULL;
ALTER TABLE page_pictures ADD CONSTRAINT page_pictures_file FOREIGN KEY (site_id, picture_id) REFERENCES files (site_id, id);
-- +goose Down
ALTER TABLE page_pictures DROP COLUMN site_id;
ALTER TABLE files DROP COLUMN given;
