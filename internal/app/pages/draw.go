package pages

import (
	"context"
	"fmt"
	"strings"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/content"
	"candlepath/internal/core/sitemap"
)

// DrawBlocks gives the HTML of blocks of a page as readers of Next get them, one by one.
func (a *Pages) DrawBlocks(ctx context.Context, who plan.Person, entry string, blocks []content.Block) (out []string, trees plan.Trees, err error) {
	err = a.onPage(ctx, who, entry, func(tx Tx, s plan.Site, now plan.Trees, _ content.Template) error {
		trees = now
		alone := content.OneSlot("one")
		for _, b := range blocks {
			p := content.Clean(content.Page{Slots: map[string][]content.Block{"one": {b}}})
			html, err := a.drawn(ctx, tx, s, now, entry, alone, p)
			if err != nil {
				return err
			}
			out = append(out, html)
		}
		return nil
	})
	return out, trees, err
}

// PlainText writes a text of a page as plain text.
func (a *Pages) PlainText(ctx context.Context, who plan.Person, entry string, p content.Page) (text string, err error) {
	err = a.onPage(ctx, who, entry, func(_ Tx, _ plan.Site, trees plan.Trees, t content.Template) error {
		text = t.Plain(content.Rewritten(content.Clean(p), func(link string) string { return addressed(trees.Next, link) }))
		return nil
	})
	return text, err
}

// addressed writes a link to a page with its address, where that leads back to it.
func addressed(t *sitemap.Tree, link string) string {
	id, ok := content.FoundLink{To: link}.Entry()
	if i := t.Find(id); ok && i != sitemap.None && t.Ref(i).Kind.IsPage() {
		if at := t.Address(i); at != "" && paged(t, at) == content.Scheme+id {
			_, anchor, _ := strings.Cut(link, "#")
			return at + map[bool]string{true: "#" + anchor}[anchor != ""]
		}
	}
	return link
}

// paged gives the link to the page that has an address, or the address.
func paged(t *sitemap.Tree, at string) string {
	if i := t.ClaimedBy(at); i != sitemap.None && t.Ref(i).Kind.IsPage() {
		return content.Scheme + t.Ref(i).ID
	}
	return at
}

// ReadPlain reads plain text into a text of a page, or tells the lines that cannot be read.
func (a *Pages) ReadPlain(ctx context.Context, who plan.Person, entry, text string, was content.Page) (p content.Page, problems []content.PlainProblem, err error) {
	err = a.onPage(ctx, who, entry, func(_ Tx, _ plan.Site, trees plan.Trees, t content.Template) error {
		p, problems = t.ReadPlain(text, content.Clean(was), func(address string) string { return paged(trees.Next, address) })
		return nil
	})
	return content.Identified(p, entry), problems, err
}

// CopyBlock adds a copy of a block to the text of another page, in the first slot that takes
// it.
func (a *Pages) CopyBlock(ctx context.Context, who plan.Person, key, to string, b content.Block) (plan.PlanResult, error) {
	return a.OnNext(ctx, who, key, to, func(tx Tx, s plan.Site, trees plan.Trees) (plan.PlanResult, error) {
		if err := a.OpenElsewhere(ctx, tx, who, trees.Next, to); err != nil {
			return plan.PlanResult{}, err
		}
		w, err := a.Writer(ctx, tx, who, trees.Next)
		if err != nil {
			return plan.PlanResult{}, err
		}
		texts, err := plan.LatestTexts(ctx, tx, []string{to})
		if err != nil {
			return plan.PlanResult{}, err
		}
		p, ok := content.WithCopy(w.Template(to), content.Identified(texts[to].Content, to), b)
		if !ok {
			return plan.PlanResult{}, plan.Refuse("to", fmt.Sprintf("No slot of %q takes this kind of block (%s).", plan.TitleOf(trees.Next, to), strings.ToLower(b.Type.Name())))
		}
		p = content.Identified(p, to)
		if err := w.Set(ctx, to, &p); err != nil {
			return plan.PlanResult{}, err
		}
		return a.RecordWith(ctx, tx, s, who, key, "copied a block to "+plan.TitleOf(trees.Next, to), trees, trees.Next, w.SideEffects)
	})
}
