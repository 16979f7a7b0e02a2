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
		p.Live, p.Site = ask.Live, LiveSite{Site: s, Tree: trees.Live, Shapes: trees.Shapes.Live}
		if !ask.Live {
			p.Site.Site.Edition++
			p.Site.Tree, p.Site.Shapes = trees.Next, trees.Shapes.Next
		}
		var err error
		if p.Site.Table, err = redirect.NewTable(nil, p.Site.Tree); err != nil {
			return err
		}
		if p.Reader, err = plan.ReaderCalled(ctx, tx, ask.As); err != nil {
			return err
		}
		answer := p.Site.Table.Resolve(ask.At)
		if answer.By != redirect.ByPage {
			return nil
		}
		p.Entry = p.Site.Tree.Ref(answer.Page).ID
		if ask.Live {
			sums, err := a.Summaries(ctx, tx, s)
			if err != nil {
				return err
			}
			p.Site.Texts = &plan.EditionTexts{Edition: s.Edition, Templates: p.Site.Shapes.Templates(), Live: sums.OfLive()}
		}
		if p.Body, err = a.shownBody(ctx, tx, s, trees, p.Entry, ask.Live); err != nil {
			return err
		}
		sees := readership.Visible(p.Site.Tree, p.Reader, p.Site.Shapes.Readerships())
		return a.compose(ctx, tx, s, &p.Body, plan.Listing{Tree: sees, Entry: p.Entry, Next: !ask.Live, Of: p.Site.Texts})
	})
	return p, err
}

// shownBody gives the text of a page in Live, or in Next: its draft if there is one, laid
// out as its template will be.
func (a *Reading) shownBody(ctx context.Context, tx Tx, s plan.Site, trees plan.Trees, entry string, live bool) (plan.LiveBody, error) {
	if live {
		bodies, err := tx.BodiesAt(ctx, s.Edition, []string{entry})
		return bodies[entry], err
	}
	texts, err := plan.LatestTexts(ctx, tx, []string{entry})
	text, written := texts[entry]
	if err != nil || !written {
		return plan.LiveBody{}, err
	}
	around, err := a.Around(ctx, tx)
	if err != nil {
		return plan.LiveBody{}, err
	}
	v, err := a.Rendered(trees.TemplateOf(entry), text.Content, around)
	return plan.LiveBody{VersionID: text.ID, Body: v.Body, Outline: v.Outline, Excerpt: v.Excerpt, At: text.At}, err
}
