package reading

import (
	"context"
	"errors"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/readership"
	"candlepath/internal/core/redirect"
)

// PreviewAsk is a page to be looked at as readers get it.
type PreviewAsk struct {
	Live bool   // else Next
	At   string // its address
	As   string // login of who looks; empty: somebody who did not sign in
}

// Previewed is what a preview shows.
type Previewed struct {
	Live   bool // else Next
	Site   LiveSite
	Reader readership.Reader
	Entry  string // empty: there is no such page
	Body   plan.LiveBody
}

// Preview gives a page of Live or Next with its menus, as somebody gets it.
func (a *Reading) Preview(ctx context.Context, who plan.Person, ask PreviewAsk) (Previewed, error) {
	var p Previewed
	err := a.Planning(ctx, who, func(tx Tx, s plan.Site, trees plan.Trees) error {
		p.Live, p.Site = ask.Live, LiveSite{Site: s, Tree: trees.Live, Navigation: trees.Navigation.Live}
		if !ask.Live {
			p.Site.Site.Edition++
			p.Site.Tree, p.Site.Navigation = trees.Next, trees.Navigation.Next
		}
		var err error
		if p.Site.Table, err = redirect.NewTable(nil, p.Site.Tree); err != nil {
			return err
		}
		if p.Reader, err = readerCalled(ctx, tx, ask.As); err != nil {
			return err
		}
		answer := p.Site.Table.Resolve(ask.At)
		if answer.By != redirect.ByPage {
			return nil
		}
		p.Entry = p.Site.Tree.Ref(answer.Page).ID
		if p.Body, err = tx.LiveBody(ctx, p.Entry); errors.Is(err, plan.ErrNotFound) {
			err = nil
		}
		if err != nil || ask.Live {
			return err
		}
		d, err := tx.Draft(ctx, p.Entry)
		if errors.Is(err, plan.ErrNotFound) {
			return nil
		}
		p.Body = plan.LiveBody{VersionID: d.ID, Body: d.Body, Outline: d.Outline, Excerpt: d.Excerpt, At: d.At}
		return err
	})
	return p, err
}

func readerCalled(ctx context.Context, tx Tx, login string) (readership.Reader, error) {
	if login == "" {
		return readership.Reader{}, nil
	}
	p, err := tx.PersonByLogin(ctx, login)
	return readership.Reader{Name: p.Name, Login: p.Login, Role: p.Role}, err
}
