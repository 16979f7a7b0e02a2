-- +goose Up
ALTER TABLE sites ADD COLUMN most_clicks integer NOT NULL DEFAULT 3 CHECK (most_clicks BETWEEN 1 AND 20);

-- +goose Down
ALTER TABLE sites DROP COLUMN most_clicks;
