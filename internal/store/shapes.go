package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"gorm.io/gorm"

	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/content"
	"candlepath/internal/core/shape"
)

// shapes gives the menus that were taken over, the trails and the templates, of Live and
// of Next.
func (t *tx) shapes(ctx context.Context) (plan.Shapes, error) {
	var rows []struct {
		ShapeID   string
		Shape     json.RawMessage
		Removed   bool
		Planned   bool
		PersonID  *string
		ChangedAt time.Time
	}
	out := plan.Shapes{Live: shape.Set{}, Next: shape.Set{}, Planned: map[string]plan.Planned{}}
	err := t.scan(ctx, &rows, `SELECT shape_id, shape, removed, from_edition IS NULL AS planned, person_id, changed_at
		FROM shape_rows WHERE site_id = ? AND to_edition IS NULL ORDER BY from_edition IS NULL`, t.site)
	if err != nil {
		return out, err
	}
	for _, r := range rows { // what is live comes first
		var w shape.Item
		if err := json.Unmarshal(r.Shape, &w); err != nil {
			return out, fmt.Errorf("%s: %w", r.ShapeID, err)
		}
		if !r.Planned {
			out.Live[r.ShapeID], out.Next[r.ShapeID] = w, w
			continue
		}
		p := plan.Planned{At: r.ChangedAt}
		if r.PersonID != nil {
			p.PersonID = *r.PersonID
		}
		out.Planned[r.ShapeID], out.Next[r.ShapeID] = p, w
		if r.Removed {
			delete(out.Next, r.ShapeID)
		}
	}
	return out, nil
}

// SaveShapes keeps how Next's items differ from Live's.
func (t *tx) SaveShapes(ctx context.Context, w plan.Shapes) error {
	if _, err := t.exec(ctx, `DELETE FROM shape_rows WHERE site_id = ? AND from_edition IS NULL`, t.site); err != nil {
		return err
	}
	for _, p := range shape.Patches(w.Live, w.Next) {
		item := p.After
		if item == nil {
			item = p.Before
		}
		by := w.Planned[p.ID]
		if err := t.addShape(ctx, p.ID, *item, p.After == nil, by, nil); err != nil {
			return err
		}
	}
	return nil
}

func (t *tx) addShape(ctx context.Context, id string, w shape.Item, removed bool, by plan.Planned, edition *int) error {
	var person *string
	if by.PersonID != "" {
		person = &by.PersonID
	}
	_, err := t.exec(ctx, `INSERT INTO shape_rows (site_id, shape_id, shape, removed, person_id, changed_at, from_edition) VALUES (?, ?, ?::jsonb, ?, ?, ?, ?)`,
		t.site, id, jsonText(w), removed, person, by.At, edition)
	return err
}

// releaseShapes closes what an edition replaces and opens what it brings.
func (t *tx) releaseShapes(ctx context.Context, r editions.Release) error {
	publisher := plan.Planned{PersonID: r.Edition.PersonID, At: r.Edition.At}
	patches := shape.Patches(r.ShapesBefore, r.Shapes.Live)
	if len(patches) == 0 {
		return nil // what is planned of them stays as it is
	}
	for _, p := range patches {
		if p.Before != nil {
			if _, err := t.exec(ctx, `UPDATE shape_rows SET to_edition = ? WHERE site_id = ? AND shape_id = ? AND from_edition IS NOT NULL AND to_edition IS NULL`,
				r.Edition.Number, t.site, p.ID); err != nil {
				return err
			}
		}
		if p.After != nil {
			if err := t.addShape(ctx, p.ID, *p.After, false, publisher, &r.Edition.Number); err != nil {
				return err
			}
		}
	}
	return t.SaveShapes(ctx, r.Shapes)
}

// ShapesAt gives the items of an edition.
func (t *tx) ShapesAt(ctx context.Context, edition int) (shape.Set, error) {
	var rows []struct {
		ShapeID string
		Shape   json.RawMessage
	}
	err := t.scan(ctx, &rows, `SELECT shape_id, shape FROM shape_rows
		WHERE site_id = ? AND from_edition <= ? AND (to_edition IS NULL OR to_edition > ?)`, t.site, edition, edition)
	out := shape.Set{}
	for _, r := range rows {
		var w shape.Item
		if err := json.Unmarshal(r.Shape, &w); err != nil {
			return nil, fmt.Errorf("%s: %w", r.ShapeID, err)
		}
		out[r.ShapeID] = w
	}
	return out, err
}

// Templates gives the templates of Next, in the order in which they are offered.
func (t *tx) Templates(ctx context.Context) ([]content.Template, error) {
	all, err := t.shapes(ctx)
	return all.Next.Templates(), err
}

// BeginWith gives a new site the templates that it begins with.
func (t *tx) BeginWith(ctx context.Context, templates []content.Template, at time.Time) error {
	before := 0
	for _, tpl := range templates {
		if err := t.addShape(ctx, shape.TemplateID(tpl.Key), shape.Item{Template: &tpl}, false, plan.Planned{At: at}, &before); err != nil {
			return err
		}
	}
	return nil
}

// ShapeVersions gives what an item was in every edition, the latest first.
func (t *tx) ShapeVersions(ctx context.Context, id string) ([]plan.ShapeVersion, error) {
	var rows []struct {
		Shape       json.RawMessage
		PersonID    *string
		ChangedAt   time.Time
		FromEdition int
		ToEdition   *int
	}
	err := t.scan(ctx, &rows, `SELECT shape, person_id, changed_at, from_edition, to_edition FROM shape_rows
		WHERE site_id = ? AND shape_id = ? AND from_edition IS NOT NULL ORDER BY from_edition DESC`, t.site, id)
	out := make([]plan.ShapeVersion, len(rows))
	for i, r := range rows {
		if err := json.Unmarshal(r.Shape, &out[i].Item); err != nil {
			return nil, fmt.Errorf("%s: %w", id, err)
		}
		out[i].At, out[i].From = r.ChangedAt, r.FromEdition
		if r.PersonID != nil {
			out[i].PersonID = *r.PersonID
		}
		if r.ToEdition != nil {
			out[i].To = *r.ToEdition
		}
	}
	return out, err
}

type templateDraftRow struct {
	SiteID    string
	PersonID  string
	Key       string
	Page      json.RawMessage `gorm:"type:jsonb"`
	Base      string
	Version   int
	ChangedAt time.Time
}

// TableName names the table of the rows.
func (templateDraftRow) TableName() string { return "template_drafts" }

func (r templateDraftRow) toPort() (plan.TemplateDraft, error) {
	d := plan.TemplateDraft{Key: r.Key, PersonID: r.PersonID, Base: r.Base, Version: r.Version, At: r.ChangedAt}
	if err := json.Unmarshal(r.Page, &d.Page); err != nil {
		return d, fmt.Errorf("draft of template %s: %w", r.Key, err)
	}
	return d, nil
}

// TemplateDraft gives what somebody is making of a template; plan.ErrNotFound if nothing.
func (t *tx) TemplateDraft(ctx context.Context, person, key string) (plan.TemplateDraft, error) {
	r, err := gorm.G[templateDraftRow](t.db).Where("site_id = ? AND person_id = ? AND key = ?", t.site, person, key).Take(ctx)
	if err != nil {
		return plan.TemplateDraft{}, wordError(err)
	}
	return r.toPort()
}

// TemplateDrafts gives what everybody is making of templates.
func (t *tx) TemplateDrafts(ctx context.Context) ([]plan.TemplateDraft, error) {
	rows, err := gorm.G[templateDraftRow](t.db).Where("site_id = ?", t.site).Order("changed_at DESC").Find(ctx)
	out := make([]plan.TemplateDraft, 0, len(rows))
	for _, r := range rows {
		d, err := r.toPort()
		if err != nil {
			return nil, err
		}
		out = append(out, d)
	}
	return out, wordError(err)
}

// SaveTemplateDraft writes a draft over the version that it was made from; 0 means there
// was none. A newer one that came between is plan.ErrStale.
func (t *tx) SaveTemplateDraft(ctx context.Context, d plan.TemplateDraft) error {
	n, err := t.exec(ctx, `INSERT INTO template_drafts (site_id, person_id, key, page, base, version, changed_at)
		SELECT @site, @person, @key, CAST(@page AS jsonb), @base, @version, @at WHERE @version = 1
		ON CONFLICT (site_id, person_id, key) DO NOTHING`, t.templateDraftArgs(d))
	if err == nil && d.Version > 1 {
		n, err = t.exec(ctx, `UPDATE template_drafts SET page = CAST(@page AS jsonb), version = @version, changed_at = @at
			WHERE site_id = @site AND person_id = @person AND key = @key AND version = @version - 1`, t.templateDraftArgs(d))
	}
	if err == nil && n == 0 {
		return plan.ErrStale
	}
	return err
}

// KeepTemplateDraft makes a draft of a template where the person has none.
func (t *tx) KeepTemplateDraft(ctx context.Context, d plan.TemplateDraft) error {
	err := t.SaveTemplateDraft(ctx, d)
	if errors.Is(err, plan.ErrStale) {
		return nil
	}
	return err
}

// ForgetTemplateDraft takes a draft of a template away where it is still as given.
func (t *tx) ForgetTemplateDraft(ctx context.Context, d plan.TemplateDraft) error {
	_, err := t.exec(ctx, `DELETE FROM template_drafts WHERE site_id = @site AND person_id = @person AND key = @key AND page = CAST(@page AS jsonb)`, t.templateDraftArgs(d))
	return err
}

func (t *tx) templateDraftArgs(d plan.TemplateDraft) map[string]any {
	return map[string]any{"site": t.site, "person": d.PersonID, "key": d.Key, "page": jsonText(d.Page), "base": d.Base, "version": d.Version, "at": d.At}
}

// DropTemplateDraft forgets what somebody was making of a template.
func (t *tx) DropTemplateDraft(ctx context.Context, person, key string) error {
	_, err := t.exec(ctx, `DELETE FROM template_drafts WHERE site_id = ? AND person_id = ? AND key = ?`, t.site, person, key)
	return err
}
