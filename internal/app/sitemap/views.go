package sitemap

import (
	"context"
	"fmt"
	"net/url"
	"strings"

	"candlepath/internal/app/plan"
)

const (
	maxViews     = 40
	maxViewName  = 60
	maxViewQuery = 2000
)

// SavedViews lists the views that a person keeps.
func (a *Sitemap) SavedViews(ctx context.Context, who plan.Person) ([]SavedView, error) {
	var views []SavedView
	err := a.Store.WriteUnlocked(ctx, func(tx Tx, _ plan.Site) (err error) {
		views, err = tx.Views(ctx, who.ID)
		return err
	})
	return views, err
}

// SaveView keeps a view under its name, in place of one that had it, and lists
// all.
func (a *Sitemap) SaveView(ctx context.Context, who plan.Person, v SavedView) ([]SavedView, error) {
	v.Name = strings.Join(strings.Fields(v.Name), " ")
	query, err := url.ParseQuery(strings.TrimPrefix(v.Query, "?"))
	switch {
	case v.Name == "" || len([]rune(v.Name)) > maxViewName:
		return nil, plan.Refuse("name", fmt.Sprintf("A view needs a name of at most %d characters.", maxViewName))
	case err != nil || len(v.Query) > maxViewQuery:
		return nil, plan.Refuse("query", "This view cannot be kept.")
	}
	query.Del("at")
	v.Query = query.Encode()
	return a.changeViews(ctx, who, func(tx Tx, now []SavedView) error {
		if len(now) >= maxViews {
			return plan.Refuse("name", fmt.Sprintf("You already have %d views. Remove one first.", maxViews))
		}
		return tx.PutView(ctx, who.ID, v)
	})
}

// DropView forgets a view and lists those that are left.
func (a *Sitemap) DropView(ctx context.Context, who plan.Person, v SavedView) ([]SavedView, error) {
	return a.changeViews(ctx, who, func(tx Tx, _ []SavedView) error { return tx.DropView(ctx, who.ID, v.Name) })
}

func (a *Sitemap) changeViews(ctx context.Context, who plan.Person, change func(Tx, []SavedView) error) ([]SavedView, error) {
	var views []SavedView
	err := a.Store.WriteUnlocked(ctx, func(tx Tx, _ plan.Site) error {
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

// SavedView is how somebody looks at the outline: filters, columns and sorting,
// as they stand in its URL.
type SavedView struct {
	Name  string `json:"name"`
	Query string `json:"query"`
}
