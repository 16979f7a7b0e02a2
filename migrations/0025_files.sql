-- +goose Up
-- Files: pictures and downloads. What they hold is in the object storage, under their ids; rows of before still hold theirs
-- until the program has moved it there.
ALTER TABLE pictures RENAME TO files;
ALTER TABLE files RENAME CONSTRAINT pictures_pkey TO files_pkey;
ALTER TABLE files RENAME CONSTRAINT pictures_site_id_fkey TO files_site_id_fkey;
ALTER TABLE files ALTER COLUMN data DROP NOT NULL;
ALTER TABLE files ADD COLUMN bytes bigint NOT NULL DEFAULT 0, ADD COLUMN width integer NOT NULL DEFAULT 0, ADD COLUMN height integer NOT NULL DEFAULT 0,
    ADD COLUMN sizes integer[] NOT NULL DEFAULT '{}', ADD COLUMN person_id uuid CONSTRAINT files_person REFERENCES people;
UPDATE files SET bytes = length(data);
ALTER TABLE files ADD CONSTRAINT files_bytes CHECK (bytes > 0), ADD CONSTRAINT files_measure CHECK ((width > 0) = (height > 0));
CREATE INDEX files_at ON files (site_id, at DESC);
-- +goose Down
DELETE FROM files WHERE data IS NULL;
DROP INDEX files_at;
ALTER TABLE files DROP COLUMN bytes, DROP COLUMN width, DROP COLUMN height, DROP COLUMN sizes, DROP COLUMN person_id;
ALTER TABLE files ALTER COLUMN data SET NOT NULL;
ALTER TABLE files RENAME CONSTRAINT files_pkey TO pictures_pkey;
ALTER TABLE files RENAME CONSTRAINT files_site_id_fkey TO pictures_site_id_fkey;
ALTER TABLE files RENAME TO pictures;
