package app

import (
	"context"
	"fmt"
	"net/url"
	"strings"

	"candlepath/internal/app/port"
)

// SavedView is how somebody looks at the outline.
type SavedView = port.SavedView

const (
	maxViews     = 40
	maxViewName  = 60
	maxViewQuery = 2000
)

// SavedViews lists the views that a person keeps.
func (a *App) SavedViews(ctx context.Context, who port.Person) ([]SavedView, error) {
	var views []SavedView
	err := a.store.Note(ctx, func(tx port.Tx, _ port.Site) (err error) {
		views, err = tx.Views(ctx, who.ID)
		return err
	})
	return views, err
}

// SaveView keeps a view under its name, in place of one that had it, and lists
// all.
func (a *App) SaveView(ctx context.Context, who port.Person, v SavedView) ([]SavedView, error) {
	v.Name = strings.Join(strings.Fields(v.Name), " ")
	query, err := url.ParseQuery(strings.TrimPrefix(v.Query, "?"))
	switch {
	case v.Name == "" || len([]rune(v.Name)) > maxViewName:
		return nil, &Invalid{"name", fmt.Sprintf("A view needs a name of at most %d characters.", maxViewName)}
	case err != nil || len(v.Query) > maxViewQuery:
		return nil, &Invalid{"query", "This view cannot be kept."}
	}
	query.Del("at")
	v.Query = query.Encode()
	return a.changeViews(ctx, who, func(tx port.Tx, now []SavedView) error {
		if len(now) >= maxViews {
			return &Invalid{"name", fmt.Sprintf("You keep %d views already. Remove one first.", maxViews)}
		}
		return tx.PutView(ctx, who.ID, v)
	})
}

// DropView forgets a view and lists those that are left.
func (a *App) DropView(ctx context.Context, who port.Person, v SavedView) ([]SavedView, error) {
	return a.changeViews(ctx, who, func(tx port.Tx, _ []SavedView) error { return tx.DropView(ctx, who.ID, v.Name) })
}

func (a *App) changeViews(ctx context.Context, who port.Person, change func(port.Tx, []SavedView) error) ([]SavedView, error) {
	var views []SavedView
	err := a.store.Note(ctx, func(tx port.Tx, _ port.Site) error {
		now, err := tx.Views(ctx, who.ID)
		if err != nil {
			return err
		}
		if err := change(tx, now); err != nil {
			return err
		}
		views, err = tx.Views(ctx, who.ID)
		return err
	})
	return views, err
}
