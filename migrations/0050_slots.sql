-- +goose Up
-- Where in a rendered page what its slots hold stands: a page whose template changes is laid out anew without rendering its
-- texts again. Unknown of what was rendered before.
ALTER TABLE page_versions ADD COLUMN slots jsonb;
-- +goose Down
ALTER TABLE page_versions DROP COLUMN slots;
