package account

import (
	"context"
	"strings"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/content"
)

// Founding is what a new site begins with.
type Founding struct {
	Site      plan.Site
	People    []plan.Person
	Templates []content.Template
}

// Found makes the site of an empty database.
func (a *Account) Found(ctx context.Context, f Founding) (plan.Site, error) {
	f.Site.ID = plan.NewID()
	err := a.Store.Note(ctx, func(tx Tx, s plan.Site) error {
		if s.ID != "" {
			return plan.ErrDone
		}
		if err := tx.CreateSite(ctx, f.Site); err != nil {
			return err
		}
		for _, p := range f.People {
			p.ID = plan.NewID()
			p.Login = strings.ToLower(p.Login)
			if err := tx.AddPerson(ctx, p); err != nil {
				return err
			}
		}
		return tx.PutTemplates(ctx, f.Templates)
	})
	return f.Site, err
}
