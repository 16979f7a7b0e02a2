package pages

import (
	"context"
	"fmt"
	"strings"

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
		next, id, err := besideOrBelow(trees.Next, i, parts.title, ask.Beside)
		if err != nil {
			return plan.PlanResult{}, err
		}
		w.Next = next
		if err := split(ctx, w, whole, parts, ask.Entry, id); err != nil {
			return plan.PlanResult{}, err
		}
		label := fmt.Sprintf("split %q off from %q", parts.title, plan.TitleOf(next, ask.Entry))
		res, err := a.RecordWith(ctx, tx, s, who, ask.Key, label, trees, next, w.SideEffects)
		res.ID = id
		return res, err
	})
}

// parted is a page that was split.
type parted struct {
	stay, leave content.Page
	pieces      []content.Piece
	goes        map[int]bool
	title       string
	titled      bool // the title was the first heading of what leaves
}

func part(w *plan.Writer, whole content.Page, ask SplitAsk) (parted, error) {
	p := parted{pieces: content.Pieces(w.Template(ask.Entry), whole, w.Floor.Markup.Parse), goes: map[int]bool{}}
	goes := content.WithBelow(p.pieces, ask.Pieces)
	switch {
	case len(goes) == 0:
		return p, plan.Refuse("piece", "Choose at least one piece that goes to the new page.")
	case len(goes) == len(p.pieces):
		return p, plan.Refuse("piece", "This would move everything. Leave at least one piece, or rename the page instead.")
	}
	for _, i := range goes {
		p.goes[i] = true
	}
	p.stay, p.leave, p.title = content.Split(whole, p.pieces, goes)
	p.titled = p.title != ""
	if t := sitemap.CleanTitle(ask.Title); t != "" {
		p.title = t
	}
	if p.title == "" {
		return p, plan.Refuse("title", "Give the new page a title.")
	}
	return p, nil
}

// besideOrBelow adds the new page: like the old one, and in a place with the
// same readers.
func besideOrBelow(t *sitemap.Tree, i int, title string, beside bool) (*sitemap.Tree, string, error) {
	from, id := t.At(i), plan.NewID()
	e := sitemap.Entry{ID: id, Title: title, Kind: sitemap.Page, Template: from.Template, Owner: from.Owner, Topics: from.Topics}
	spot := t.Last(from.ID)
	if beside && i != t.Home() {
		spot, e.Readership = sitemap.Spot{Parent: from.Parent, After: from.ID}, from.Readership
	} else if i == t.Home() {
		spot = t.Last("")
	}
	next, err := t.Add(e, spot)
	return next, id, err
}

// split writes both texts and leads links to the headings where they are now.
func split(ctx context.Context, w *plan.Writer, whole content.Page, p parted, old, id string) error {
	was, err := outline(w, old, whole)
	if err != nil {
		return err
	}
	stays, err := outline(w, old, p.stay)
	if err != nil {
		return err
	}
	leaves, err := outline(w, id, p.leave)
	if err != nil {
		return err
	}
	now := headingsNow(was, stays, leaves, p, old, id)
	to := func(holder, link string) string { return relinkedHeading(holder, link, old, now) }
	stay := content.Rewritten(p.stay, func(link string) string { return to(old, link) })
	leave := content.Rewritten(p.leave, func(link string) string {
		if strings.HasPrefix(link, "#") { // of the page as it was
			return relinkedHeading(id, content.Scheme+old+link, old, now)
		}
		return to(id, link)
	})
	for entry, page := range map[string]*content.Page{old: &stay, id: &leave} {
		if err := w.Set(ctx, entry, page); err != nil {
			return err
		}
	}
	_, err = w.Relink(ctx, old, to, old, id)
	return err
}

func outline(w *plan.Writer, entry string, p content.Page) ([]markup.Heading, error) {
	art, err := w.Floor.Markup.Article(w.Template(entry), p, func(string) string { return "" })
	return art.Headings, err
}

// headingsNow tells for every heading that the page had where it is now, as a
// link: headings of the same words follow each other in the same order.
func headingsNow(was, stays, leaves []markup.Heading, p parted, old, id string) map[string]string {
	type place struct {
		page string
		at   []markup.Heading
	}
	left := map[bool]*place{false: {old, stays}, true: {id, leaves}}
	take := func(side bool, words string) string {
		pl := left[side]
		for k, h := range pl.at {
			if h.Text == words {
				pl.at = append(pl.at[:k:k], pl.at[k+1:]...)
				return content.Scheme + pl.page + "#" + h.ID
			}
		}
		return content.Scheme + pl.page
	}
	sides := map[string][]bool{} // by words, in order
	for i, piece := range p.pieces {
		if piece.Level > 0 {
			sides[piece.Heading] = append(sides[piece.Heading], p.goes[i])
		}
	}
	out := map[string]string{}
	top := p.titled
	for _, h := range was {
		side := false
		if s := sides[h.Text]; len(s) > 0 {
			side, sides[h.Text] = s[0], s[1:]
		}
		if side && top { // the first that goes is the title of the new page
			top = false
			out[h.ID] = content.Scheme + id
			continue
		}
		out[h.ID] = take(side, h.Text)
	}
	return out
}

// relinkedHeading gives a link to a heading of the page that was split as it is
// now; within a page it stays short.
func relinkedHeading(holder, link, old string, now map[string]string) string {
	page, anchor, ok := strings.Cut(link, "#")
	if page != content.Scheme+old && (page != "" || holder != old) || !ok {
		return link
	}
	to, known := now[anchor]
	if !known {
		return link
	}
	if short, own := strings.CutPrefix(to, content.Scheme+holder+"#"); own && (page == "" || holder != old) {
		return "#" + short
	}
	return to
}
