package plan

import (
	"context"

	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
)

// saveRedirects plans redirects by hand, or no longer.
func (a *Floor) saveRedirects(ctx context.Context, tx Tx, who Person, patches []RedirectPatch) error {
	var put []redirect.Row
	var drop []redirect.Key
	for _, p := range patches {
		if p.After != nil {
			put = append(put, *p.After)
		} else if p.Before != nil {
			drop = append(drop, p.Before.Key())
		}
	}
	if len(drop) > 0 {
		if err := tx.DropRedirects(ctx, drop); err != nil {
			return err
		}
	}
	if len(put) == 0 {
		return nil
	}
	return tx.PutRedirects(ctx, put, Planned{PersonID: who.ID, At: a.Now()})
}

// turnRedirects takes what an act did to planned redirects back, or does it again. Where
// somebody changed one of them since, it says so and does nothing.
func (a *Floor) turnRedirects(ctx context.Context, tx Tx, who Person, patches []RedirectPatch, again bool) error {
	if len(patches) == 0 {
		return nil
	}
	planned, err := tx.PlannedRedirects(ctx)
	if err != nil {
		return err
	}
	now := make(map[string]redirect.Row, len(planned))
	for _, p := range planned {
		now[p.Key().ID()] = p.Row
	}
	turned := make([]RedirectPatch, len(patches))
	for i, p := range patches {
		if !again {
			p.Before, p.After = p.After, p.Before
		}
		row, there := now[p.ID]
		if there != (p.Before != nil) || there && row != plain(*p.Before) {
			k, _ := redirect.ParseKey(p.ID)
			return &sitemap.ConflictError{ID: p.ID, Title: "The redirect of " + k.Title()}
		}
		turned[i] = p
	}
	return a.saveRedirects(ctx, tx, who, turned)
}

// plain is a row as it is kept.
func plain(r redirect.Row) redirect.Row {
	r.Line = 0
	return r
}
