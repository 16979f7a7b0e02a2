package plan

import (
	"context"
	"time"

	"candlepath/internal/core/content"
	"candlepath/internal/core/link"
	"candlepath/internal/core/listing"
	"candlepath/internal/core/menu"
	"candlepath/internal/core/reach"
	"candlepath/internal/core/shape"
	"candlepath/internal/core/sitemap"
)

// ReachIn computes the ways in of a tree.
func (a *Floor) ReachIn(t, liveTree *sitemap.Tree, set shape.Set, summaries Summaries, live bool) *reach.Reach {
	links, o := a.Clickable(t, liveTree, set, summaries, live)
	return reach.From(t, links, o)
}

// Clickable is what readers can click in a tree besides what the sitemap itself
// makes: links, tiles, lists, trails, and menus that were taken over.
func (a *Floor) Clickable(t, liveTree *sitemap.Tree, set shape.Set, summaries Summaries, live bool) (links []reach.Link, o reach.Options) {
	links = append(linksOf(t, liveTree, summaries, live), listsOf(t, summaries, live)...)
	links = append(links, a.fixedLinks(t, set)...)
	for _, tr := range set.Trails() {
		steps := tr.Steps(t)
		for _, from := range steps {
			for _, to := range steps {
				links = append(links, reach.Link{From: from, To: to, Words: tr.Title, Via: reach.Trail})
			}
		}
	}
	if owns := set.Menus(); len(owns) > 0 {
		o.Menus = menu.For(t, owns)
	}
	return links, o
}

// linksOf gives the links of pages that lead to entries of a tree: of Live what
// is published, of Next drafts where there are some.
func linksOf(t, liveTree *sitemap.Tree, summaries Summaries, live bool) []reach.Link {
	drafted := map[string]*PageSummary{}
	if !live {
		drafted = summaries.ByEntry()
	}
	known := summaries.Links(liveTree)
	out := make([]reach.Link, 0, known.Len())
	add := func(from, to int, l *content.FoundLink) {
		if to == sitemap.None {
			return
		}
		via := reach.Text
		if l.Tile {
			via = reach.Tile
		}
		out = append(out, reach.Link{From: from, To: to, Words: l.Text, Via: via})
	}
	view := known.In(t)
	view.Each(func(from int, p *link.Page, to []int32) {
		if len(drafted) > 0 && drafted[p.ID] != nil {
			return
		}
		for k := range p.Links {
			add(from, view.Leads(to[k], &p.Links[k]), &p.Links[k])
		}
	})
	for _, h := range drafted {
		if from := t.Find(h.EntryID); from != sitemap.None {
			for k := range h.Links {
				add(from, link.Leads(t, &h.Links[k]), &h.Links[k])
			}
		}
	}
	return out
}

// fixedLinks gives the links of fixed parts of templates: every page of a template has
// them.
func (a *Floor) fixedLinks(t *sitemap.Tree, set shape.Set) (out []reach.Link) {
	templates := set.Templates()
	leads := map[string][]reach.Link{}
	for _, tpl := range templates {
		for _, l := range tpl.FixedLinks(a.Markup.Parse) {
			if to := link.Leads(t, &l); to != sitemap.None {
				via := reach.Text
				if l.Tile {
					via = reach.Tile
				}
				leads[tpl.Key] = append(leads[tpl.Key], reach.Link{To: to, Words: l.Text, Via: via})
			}
		}
	}
	if len(leads) == 0 {
		return nil
	}
	for i := range t.Len() {
		if !t.Ref(i).Kind.IsPage() {
			continue
		}
		for _, l := range leads[content.TemplateOf(templates, t.Ref(i).Template).Key] {
			l.From = i
			out = append(out, l)
		}
	}
	return out
}

// listsOf gives what lists in pages lead to, in Live or with the drafts of Next.
func listsOf(t *sitemap.Tree, summaries Summaries, live bool) (out []reach.Link) {
	drafted, written := map[string]*PageSummary{}, map[string]time.Time(nil)
	if !live {
		drafted = summaries.ByEntry()
	}
	site := listing.Site{Tree: t, Changed: func(entry string) time.Time {
		if written == nil {
			written = summaries.LastWritten()
		}
		return written[entry]
	}}
	add := func(h *PageSummary) {
		if len(h.Report.Lists) == 0 {
			return
		}
		from := t.Find(h.EntryID)
		if from == sitemap.None {
			return
		}
		for _, b := range h.Report.Lists {
			for _, to := range site.Pages(b, from) {
				out = append(out, reach.Link{From: from, To: to, Words: t.Ref(to).Name(), Via: reach.List})
			}
		}
	}
	for i := range summaries.Live() {
		if h := &summaries.Live()[i]; drafted[h.EntryID] == nil {
			add(h)
		}
	}
	for _, h := range drafted {
		add(h)
	}
	return out
}

// ReachOfNext computes the ways in Next.
func (a *Floor) ReachOfNext(ctx context.Context, tx Tx, s Site, trees Trees) (*reach.Reach, error) {
	if r, ok := a.reach.Get(s, ""); ok {
		return r, nil
	}
	summaries, err := a.Summaries(ctx, tx, s)
	if err != nil {
		return nil, err
	}
	r := a.ReachIn(trees.Next, trees.Live, trees.Shapes.Next, summaries, false)
	a.reach.Put(tx, s, "", r)
	return r, nil
}
