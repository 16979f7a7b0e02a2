package reading

import (
	"context"

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
		if p.Body, err = shownBody(ctx, tx, p.Entry, ask.Live); err != nil {
			return err
		}
		sees := readership.Visible(p.Site.Tree, p.Reader, p.Site.Navigation.Readerships())
		return a.compose(ctx, tx, s, &p.Body, plan.Listing{Tree: sees, Entry: p.Entry, Next: !ask.Live})
	})
	return p, err
}

// shownBody gives the text of a page in Live, or in Next: its draft if there is one.
func shownBody(ctx context.Context, tx Tx, entry string, live bool) (plan.LiveBody, error) {
	if !live {
		if b, err := tx.DraftBody(ctx, entry); err != nil || b.VersionID != "" {
			return b, err
		}
	}
	return tx.LiveBody(ctx, entry)
}

func readerCalled(ctx context.Context, tx Tx, login string) (readership.Reader, error) {
	if login == "" {
		return readership.Reader{}, nil
	}
	p, err := tx.PersonByLogin(ctx, login)
	return readership.Reader{Name: p.Name, Login: p.Login, Role: p.Role}, err
}
