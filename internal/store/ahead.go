package store

import (
	"context"
	"encoding/json"
	"errors"

	"candlepath/internal/app/plan"
)

// RenderedAhead gives what was rendered of versions ahead of their edition, by their ids.
func (t *tx) RenderedAhead(ctx context.Context, versions []string) (map[string]plan.RenderedAhead, error) {
	var rows []struct {
		VersionID, MadeOf, Plain     string
		Body                         []byte
		Asked, Outline, Slots, Links json.RawMessage
	}
	err := t.scan(ctx, &rows, `SELECT version_id, made_of, asked, body, outline, slots, links, plain FROM rendered_ahead
		WHERE site_id = ? AND version_id IN (SELECT CAST(unnest(CAST(? AS text[])) AS uuid))`, t.site, setText(versions))
	out := make(map[string]plan.RenderedAhead, len(rows))
	for _, r := range rows {
		a := plan.RenderedAhead{VersionID: r.VersionID, MadeOf: r.MadeOf, Plain: r.Plain}
		a.Body = r.Body
		err = errors.Join(
			err, json.Unmarshal(r.Asked, &a.Asked), json.Unmarshal(r.Outline, &a.Outline), json.Unmarshal(r.Slots, &a.Slots), json.Unmarshal(r.Links, &a.Links),
		)
		out[r.VersionID] = a
	}
	return out, err
}

// KeepRendered keeps what was rendered ahead, in the place of what was before. Versions that are gone are left out.
func (t *tx) KeepRendered(ctx context.Context, list []plan.RenderedAhead) error {
	if len(list) == 0 {
		return nil
	}
	var ids, madeOf, asked, links, plain, outlines, slots array[string]
	var bodies array[[]byte]
	for _, r := range list {
		ids.add(r.VersionID)
		madeOf.add(r.MadeOf)
		asked.add(jsonText(r.Asked))
		bodies.add(r.Body)
		outlines.add(jsonText(r.Outline))
		slots.add(jsonText(r.Slots))
		links.add(jsonText(r.Links))
		plain.add(r.Plain)
	}
	_, err := t.exec(ctx, `INSERT INTO rendered_ahead (version_id, site_id, made_of, asked, body, outline, slots, links, plain, at)
		SELECT v.id, v.site_id, r.made_of, CAST(r.asked AS jsonb), r.body, CAST(r.outline AS jsonb), CAST(r.slots AS jsonb), CAST(r.links AS jsonb), r.plain, now()
		FROM unnest(CAST(@ids AS text[]), CAST(@made AS text[]), CAST(@asked AS text[]), `+drawnArrays+`, CAST(@links AS text[]), CAST(@plain AS text[]))
			AS r(id, made_of, asked, body, outline, slots, links, plain)
		JOIN page_versions v ON v.id = CAST(r.id AS uuid) AND v.site_id = @site
		ON CONFLICT (version_id) DO UPDATE SET made_of = excluded.made_of, asked = excluded.asked, body = excluded.body, outline = excluded.outline,
			slots = excluded.slots, links = excluded.links, plain = excluded.plain, at = excluded.at`, map[string]any{
		"site": t.site, "ids": ids, "made": madeOf, "asked": asked, "bodies": bodies, "outlines": outlines, "slots": slots, "links": links, "plain": plain,
	})
	return err
}

// dropRendered lets go what was rendered ahead of versions, since it is written.
func (t *tx) dropRendered(ctx context.Context, versions []string) error {
	_, err := t.exec(ctx, `DELETE FROM rendered_ahead WHERE site_id = ? AND version_id IN (SELECT CAST(unnest(CAST(? AS text[])) AS uuid))`, t.site, setText(versions))
	return err
}
