-- +goose Up
-- What a site manager chooses, by key; core/setting knows the keys and what they are without a choice.
ALTER TABLE sites ADD COLUMN settings jsonb NOT NULL DEFAULT '{}' CHECK (jsonb_typeof(settings) = 'object');
UPDATE sites SET settings = jsonb_build_object(
    'name', name, 'accent', accent, 'mark', mark, 'foot', foot, 'clicks', most_clicks::text, 'keep-removed', keep_removed_days::text,
    'editors-publish', CASE WHEN editors_publish THEN 'on' ELSE '' END, 'own-work', CASE WHEN own_work THEN 'on' ELSE '' END);
ALTER TABLE sites DROP COLUMN name, DROP COLUMN accent, DROP COLUMN mark, DROP COLUMN foot, DROP COLUMN most_clicks,
    DROP COLUMN keep_removed_days, DROP COLUMN editors_publish, DROP COLUMN own_work;

-- +goose Down
ALTER TABLE sites ADD COLUMN name text NOT NULL DEFAULT '', ADD COLUMN accent text NOT NULL DEFAULT '#2E5A3E', ADD COLUMN mark text NOT NULL DEFAULT 'sprout',
    ADD COLUMN foot text NOT NULL DEFAULT '', ADD COLUMN most_clicks integer NOT NULL DEFAULT 3 CHECK (most_clicks BETWEEN 1 AND 20),
    ADD COLUMN keep_removed_days integer NOT NULL DEFAULT 60 CHECK (keep_removed_days BETWEEN 1 AND 3650),
    ADD COLUMN editors_publish boolean NOT NULL DEFAULT false, ADD COLUMN own_work boolean NOT NULL DEFAULT false;
UPDATE sites SET name = coalesce(settings ->> 'name', ''), accent = coalesce(settings ->> 'accent', accent), mark = coalesce(settings ->> 'mark', mark),
    foot = coalesce(settings ->> 'foot', ''), most_clicks = coalesce((settings ->> 'clicks')::integer, 3),
    keep_removed_days = coalesce((settings ->> 'keep-removed')::integer, 60),
    editors_publish = coalesce(settings ->> 'editors-publish', '') = 'on', own_work = coalesce(settings ->> 'own-work', '') = 'on';
ALTER TABLE sites ALTER COLUMN name DROP DEFAULT, DROP COLUMN settings;
