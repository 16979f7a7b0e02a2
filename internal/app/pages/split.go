package pages

import (
	"context"
	"fmt"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/content"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
	"candlepath/internal/markup"
)

// Splitting is the pieces of a page, before some go to a page of their own.
type Splitting struct {
	Entry    sitemap.Entry
	Address  string
	Mark     string
	Template content.Template
	Pieces   []content.Piece
	Trees    plan.Trees
}

// SplitAsk is how a page is split.
type SplitAsk struct {
	Key, Entry, Mark string
	Pieces           []int  // those that go
	Title            string // empty: the heading with which they begin
	Beside           bool   // the new page stands beside the old one, not below
}

// LookAtSplit shows the pieces of a page.
func (a *Pages) LookAtSplit(ctx context.Context, who plan.Person, entry string) (Splitting, error) {
	var out Splitting
	err := a.Planning(ctx, who, func(tx Tx, s plan.Site, trees plan.Trees) error {
		i := trees.Next.Find(entry)
		if i == sitemap.None || !trees.Next.Ref(i).Kind.IsPage() {
			return plan.ErrNotFound
		}
		w, err := a.Writer(ctx, tx, who, trees.Next)
		if err != nil {
			return err
		}
		texts, err := plan.LatestTexts(ctx, tx, []string{entry})
		if err != nil {
			return err
		}
		out = Splitting{trees.Next.At(i), trees.Next.Address(i), plan.MarkOf(texts[entry]), w.Template(entry), nil, trees}
		out.Pieces = content.Pieces(out.Template, texts[entry].Content, a.Markup.Parse)
		return nil
	})
	return out, err
}

// Split moves pieces of a page to a new one in one act. Links to the headings
// that moved, also from other pages, lead to them.
func (a *Pages) Split(ctx context.Context, who plan.Person, ask SplitAsk) (plan.PlanResult, error) {
	return a.OnNext(ctx, who, ask.Key, ask.Entry, func(tx Tx, s plan.Site, trees plan.Trees) (plan.PlanResult, error) {
		if err := plan.May(s, who, workflow.Write); err != nil {
			return plan.PlanResult{}, err
		}
		i := trees.Next.Find(ask.Entry)
		if i == sitemap.None || !trees.Next.Ref(i).Kind.IsPage() {
			return plan.PlanResult{}, plan.ErrNotFound
		}
		if err := a.OpenElsewhere(ctx, tx, who, trees.Next, ask.Entry); err != nil {
			return plan.PlanResult{}, err
		}
		texts, err := plan.LatestTexts(ctx, tx, []string{ask.Entry})
		if err != nil {
			return plan.PlanResult{}, err
		}
		if plan.MarkOf(texts[ask.Entry]) != ask.Mark {
			return plan.PlanResult{}, plan.Refuse("", "The text of the page has changed meanwhile. Check it again.")
		}
		w, err := a.Writer(ctx, tx, who, trees.Next)
		if err != nil {
			return plan.PlanResult{}, err
		}
		whole := texts[ask.Entry].Content
		parts, err := part(w, whole, ask)
		if err != nil {
			return plan.PlanResult{}, err
		}
		next, err := trees.Next.SplitOff(i, parts.New, parts.title, ask.Beside)
		if err != nil {
			return plan.PlanResult{}, err
		}
		w.Next = next
		if err := split(ctx, w, whole, parts); err != nil {
			return plan.PlanResult{}, err
		}
		label := fmt.Sprintf("split %q off from %q", parts.title, plan.TitleOf(next, ask.Entry))
		res, err := a.RecordWith(ctx, tx, s, who, ask.Key, label, trees, next, w.SideEffects)
		res.ID = parts.New
		return res, err
	})
}

// parted is a page that is split.
type parted struct {
	content.Parted
	stay, leave content.Page
	title       string
}

func part(w *plan.Writer, whole content.Page, ask SplitAsk) (parted, error) {
	pieces := content.Pieces(w.Template(ask.Entry), whole, w.Floor.Markup.Parse)
	p := parted{Parted: content.Parted{Old: ask.Entry, New: plan.NewID(), Pieces: pieces, Goes: content.WithBelow(pieces, ask.Pieces)}}
	switch {
	case len(p.Goes) == 0:
		return p, plan.Refuse("piece", "Choose at least one piece that goes to the new page.")
	case len(p.Goes) == len(p.Pieces):
		return p, plan.Refuse("piece", "This would move everything. Leave at least one piece, or rename the page instead.")
	}
	p.stay, p.leave, p.title = content.Split(whole, pieces, p.Goes)
	p.Titled = p.title != ""
	if t := sitemap.CleanTitle(ask.Title); t != "" {
		p.title = t
	}
	if p.title == "" {
		return p, plan.Refuse("title", "Give the new page a title.")
	}
	return p, nil
}

// split writes both texts and leads links to the headings where they are now.
func split(ctx context.Context, w *plan.Writer, whole content.Page, p parted) error {
	was, err := anchors(w, p.Old, whole)
	if err != nil {
		return err
	}
	stays, err := anchors(w, p.Old, p.stay)
	if err != nil {
		return err
	}
	leaves, err := anchors(w, p.New, p.leave)
	if err != nil {
		return err
	}
	now := p.Anchors(was, stays, leaves)
	to := func(holder, link string) string { return p.Link(holder, link, now) }
	stay := content.Rewritten(p.stay, func(link string) string { return to(p.Old, link) })
	leave := content.Rewritten(p.leave, func(link string) string { return p.LinkOfLeaving(link, now) })
	if err := w.Set(ctx, p.Old, &stay); err != nil {
		return err
	}
	if err := w.Set(ctx, p.New, &leave); err != nil {
		return err
	}
	_, err = w.Relink(ctx, p.Old, to, p.Old, p.New)
	return err
}

// anchors gives the headings of a page as it is rendered.
func anchors(w *plan.Writer, entry string, p content.Page) ([]content.Anchor, error) {
	art, err := w.Floor.Markup.Article(w.Template(entry), p, markup.Around{})
	out := make([]content.Anchor, len(art.Headings))
	for i, h := range art.Headings {
		out[i] = content.Anchor{ID: h.ID, Words: h.Text}
	}
	return out, err
}
