-- +goose Up
-- Entries get a part of their own: what is derived from the tree stays when decisions, selections or
-- redirects change. Drafts of templates belong with drafts, of which no tree is made.
INSERT INTO work_versions (part, stripe) SELECT 'entries', generate_series(0, 15);
DROP TRIGGER work_touched ON entry_rows;
DROP TRIGGER work_touched ON template_drafts;
CREATE TRIGGER work_touched AFTER INSERT OR UPDATE OR DELETE OR TRUNCATE ON entry_rows FOR EACH STATEMENT EXECUTE FUNCTION touch_work('entries');
CREATE TRIGGER work_touched AFTER INSERT OR UPDATE OR DELETE OR TRUNCATE ON template_drafts FOR EACH STATEMENT EXECUTE FUNCTION touch_work('drafts');
-- Instances of the version before ask it of the plan, while both run.
UPDATE work_versions SET version = version + 1 WHERE part IN ('plan', 'shapes') AND stripe = 0;
ALTER TABLE sites DROP COLUMN older_version;
-- +goose Down
ALTER TABLE sites ADD COLUMN older_version bigint NOT NULL DEFAULT 0;
DROP TRIGGER work_touched ON entry_rows;
DROP TRIGGER work_touched ON template_drafts;
CREATE TRIGGER work_touched AFTER INSERT OR UPDATE OR DELETE OR TRUNCATE ON entry_rows FOR EACH STATEMENT EXECUTE FUNCTION touch_work('plan');
CREATE TRIGGER work_touched AFTER INSERT OR UPDATE OR DELETE OR TRUNCATE ON template_drafts FOR EACH STATEMENT EXECUTE FUNCTION touch_work('shapes');
UPDATE work_versions SET version = version + 1 WHERE part IN ('plan', 'shapes') AND stripe = 0;
DELETE FROM work_versions WHERE part = 'entries';
