-- +goose Up
-- Editions keep the aspect of each change, not the word that lists show for it.
ALTER TABLE editions DISABLE TRIGGER editions_kept;
UPDATE editions SET told = (
    SELECT coalesce(jsonb_agg(
        CASE
            WHEN t->>'aspect' IN ('moved', 'renamed address') OR t->>'aspect' LIKE 'turned into %'
                THEN t || jsonb_build_object('aspect', 'placement', 'how', t->>'aspect')
            ELSE t || jsonb_build_object('aspect', CASE t->>'aspect'
                WHEN 'new' THEN 'added' WHEN 'new address' THEN 'readdressed' WHEN 'retitled' THEN 'title' WHEN 'new target' THEN 'target'
                WHEN 'new template' THEN 'template' WHEN 'edited' THEN 'content' WHEN 'facts' THEN 'details' ELSE t->>'aspect' END)
        END ORDER BY n), '[]'::jsonb)
    FROM jsonb_array_elements(told) WITH ORDINALITY AS e(t, n));
ALTER TABLE editions ENABLE TRIGGER editions_kept;

-- +goose Down
ALTER TABLE editions DISABLE TRIGGER editions_kept;
UPDATE editions SET told = (
    SELECT coalesce(jsonb_agg(
        CASE t->>'aspect'
            WHEN 'placement' THEN (t - 'how') || jsonb_build_object('aspect', coalesce(t->>'how', 'moved'))
            ELSE t || jsonb_build_object('aspect', CASE t->>'aspect'
                WHEN 'added' THEN 'new' WHEN 'readdressed' THEN 'new address' WHEN 'title' THEN 'retitled' WHEN 'target' THEN 'new target'
                WHEN 'template' THEN 'new template' WHEN 'content' THEN 'edited' WHEN 'details' THEN 'facts' ELSE t->>'aspect' END)
        END ORDER BY n), '[]'::jsonb)
    FROM jsonb_array_elements(told) WITH ORDINALITY AS e(t, n));
ALTER TABLE editions ENABLE TRIGGER editions_kept;
