package app

import (
	"context"
	"fmt"
	"strings"

	"candlepath/internal/app/port"
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
	Trees    port.Trees
}

// SplitAsk is how a page is split.
type SplitAsk struct {
	Key, Entry, Mark string
	Pieces           []int  // those that go
	Title            string // empty: the heading with which they begin
	Beside           bool   // the new page stands beside the old one, not below
}

// LookAtSplit shows the pieces of a page.
func (a *App) LookAtSplit(ctx context.Context, who port.Person, entry string) (Splitting, error) {
	var out Splitting
	err := a.planning(ctx, who, func(tx port.Tx, s port.Site, trees port.Trees) error {
		i := trees.Next.Find(entry)
		if i == sitemap.None || !trees.Next.Ref(i).Kind.IsPage() {
			return ErrNotFound
		}
		w, err := a.writer(ctx, tx, who, trees.Next)
		if err != nil {
			return err
		}
		texts, err := latestTexts(ctx, tx, []string{entry})
		if err != nil {
			return err
		}
		out = Splitting{trees.Next.At(i), trees.Next.Address(i), markOf(texts[entry]), w.template(entry), nil, trees}
		out.Pieces = content.Pieces(out.Template, texts[entry].Content, a.markup.Parse)
		return nil
	})
	return out, err
}

// Split moves pieces of a page to a new one in one act. Links to the headings
// that moved, also from other pages, lead to them.
func (a *App) Split(ctx context.Context, who port.Person, ask SplitAsk) (PlanResult, error) {
	return a.onNext(ctx, who, ask.Key, ask.Entry, func(tx port.Tx, s port.Site, trees port.Trees) (PlanResult, error) {
		if err := may(s, who, workflow.Write); err != nil {
			return PlanResult{}, err
		}
		i := trees.Next.Find(ask.Entry)
		if i == sitemap.None || !trees.Next.Ref(i).Kind.IsPage() {
			return PlanResult{}, ErrNotFound
		}
		if err := a.openElsewhere(ctx, tx, who, trees.Next, ask.Entry); err != nil {
			return PlanResult{}, err
		}
		texts, err := latestTexts(ctx, tx, []string{ask.Entry})
		if err != nil {
			return PlanResult{}, err
		}
		if markOf(texts[ask.Entry]) != ask.Mark {
			return PlanResult{}, &Invalid{"", "The text of the page was changed meanwhile. Look at it again."}
		}
		w, err := a.writer(ctx, tx, who, trees.Next)
		if err != nil {
			return PlanResult{}, err
		}
		whole := texts[ask.Entry].Content
		parts, err := w.part(whole, ask)
		if err != nil {
			return PlanResult{}, err
		}
		next, id, err := besideOrBelow(trees.Next, i, parts.title, ask.Beside)
		if err != nil {
			return PlanResult{}, err
		}
		w.next = next
		if err := w.split(ctx, whole, parts, ask.Entry, id); err != nil {
			return PlanResult{}, err
		}
		label := fmt.Sprintf("split %q off from %q", parts.title, titleOf(next, ask.Entry))
		res, err := a.recordAlso(ctx, tx, s, who, ask.Key, label, trees, next, w.also)
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

func (w *writer) part(whole content.Page, ask SplitAsk) (parted, error) {
	p := parted{pieces: content.Pieces(w.template(ask.Entry), whole, w.a.markup.Parse), goes: map[int]bool{}}
	goes := content.WithBelow(p.pieces, ask.Pieces)
	switch {
	case len(goes) == 0:
		return p, &Invalid{"piece", "Choose at least one piece that goes to the new page."}
	case len(goes) == len(p.pieces):
		return p, &Invalid{"piece", "Everything would go. Leave at least one piece, or rename the page instead."}
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
		return p, &Invalid{"title", "Give the new page a title."}
	}
	return p, nil
}

// besideOrBelow adds the new page: like the old one, and in a place with the
// same readers.
func besideOrBelow(t *sitemap.Tree, i int, title string, beside bool) (*sitemap.Tree, string, error) {
	from, id := t.At(i), newID()
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
func (w *writer) split(ctx context.Context, whole content.Page, p parted, old, id string) error {
	was, err := w.outline(old, whole)
	if err != nil {
		return err
	}
	stays, err := w.outline(old, p.stay)
	if err != nil {
		return err
	}
	leaves, err := w.outline(id, p.leave)
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
		if err := w.set(ctx, entry, page); err != nil {
			return err
		}
	}
	_, err = w.relink(ctx, old, to, old, id)
	return err
}

func (w *writer) outline(entry string, p content.Page) ([]markup.Heading, error) {
	art, err := w.a.markup.Article(w.template(entry), p, func(string) string { return "" })
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
