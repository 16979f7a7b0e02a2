package store

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/navigation"
)

// ways gives the menus that were taken over and the trails, of Live and of Next.
func (t *tx) ways(ctx context.Context) (plan.Navigation, error) {
	var rows []struct {
		WayID     string
		Way       json.RawMessage
		Removed   bool
		Planned   bool
		PersonID  *string
		ChangedAt time.Time
	}
	out := plan.Navigation{Live: navigation.Set{}, Next: navigation.Set{}, Planned: map[string]plan.Planned{}}
	err := t.scan(ctx, &rows, `SELECT way_id, way, removed, from_edition IS NULL AS planned, person_id, changed_at
		FROM way_rows WHERE site_id = ? AND to_edition IS NULL ORDER BY from_edition IS NULL`, t.site)
	if err != nil {
		return out, err
	}
	for _, r := range rows { // what is live comes first
		var w navigation.Item
		if err := json.Unmarshal(r.Way, &w); err != nil {
			return out, fmt.Errorf("way %s: %w", r.WayID, err)
		}
		if !r.Planned {
			out.Live[r.WayID], out.Next[r.WayID] = w, w
			continue
		}
		p := plan.Planned{At: r.ChangedAt}
		if r.PersonID != nil {
			p.PersonID = *r.PersonID
		}
		out.Planned[r.WayID], out.Next[r.WayID] = p, w
		if r.Removed {
			delete(out.Next, r.WayID)
		}
	}
	return out, nil
}

// SaveNavigation keeps how Next's ways differ from Live's.
func (t *tx) SaveNavigation(ctx context.Context, w plan.Navigation) error {
	if _, err := t.exec(ctx, `DELETE FROM way_rows WHERE site_id = ? AND from_edition IS NULL`, t.site); err != nil {
		return err
	}
	for _, p := range navigation.Patches(w.Live, w.Next) {
		way := p.After
		if way == nil {
			way = p.Before
		}
		by := w.Planned[p.ID]
		if err := t.addWay(ctx, p.ID, *way, p.After == nil, by, nil); err != nil {
			return err
		}
	}
	return nil
}

func (t *tx) addWay(ctx context.Context, id string, w navigation.Item, removed bool, by plan.Planned, edition *int) error {
	var person *string
	if by.PersonID != "" {
		person = &by.PersonID
	}
	_, err := t.exec(ctx, `INSERT INTO way_rows (site_id, way_id, way, removed, person_id, changed_at, from_edition) VALUES (?, ?, ?::jsonb, ?, ?, ?, ?)`,
		t.site, id, jsonText(w), removed, person, by.At, edition)
	return err
}

// releaseNavigation closes what an edition replaces and opens what it brings.
func (t *tx) releaseNavigation(ctx context.Context, r editions.Release) error {
	publisher := plan.Planned{PersonID: r.Edition.PersonID, At: r.Edition.At}
	for _, p := range navigation.Patches(r.NavigationBefore, r.Navigation.Live) {
		if p.Before != nil {
			if _, err := t.exec(ctx, `UPDATE way_rows SET to_edition = ? WHERE site_id = ? AND way_id = ? AND from_edition IS NOT NULL AND to_edition IS NULL`,
				r.Edition.Number, t.site, p.ID); err != nil {
				return err
			}
		}
		if p.After != nil {
			if err := t.addWay(ctx, p.ID, *p.After, false, publisher, &r.Edition.Number); err != nil {
				return err
			}
		}
	}
	return t.SaveNavigation(ctx, r.Navigation)
}

// NavigationAt gives the ways of an edition.
func (t *tx) NavigationAt(ctx context.Context, edition int) (navigation.Set, error) {
	var rows []struct {
		WayID string
		Way   json.RawMessage
	}
	err := t.scan(ctx, &rows, `SELECT way_id, way FROM way_rows
		WHERE site_id = ? AND from_edition <= ? AND (to_edition IS NULL OR to_edition > ?)`, t.site, edition, edition)
	out := navigation.Set{}
	for _, r := range rows {
		var w navigation.Item
		if err := json.Unmarshal(r.Way, &w); err != nil {
			return nil, fmt.Errorf("way %s: %w", r.WayID, err)
		}
		out[r.WayID] = w
	}
	return out, err
}
