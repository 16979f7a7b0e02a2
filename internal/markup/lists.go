package markup

import (
	"strconv"
	"time"

	"candlepath/internal/core/content"
	"candlepath/internal/core/listing"
	"candlepath/internal/core/menu"
	"candlepath/internal/core/sitemap"
)

// Lists tells what the blocks of one page show that are worked out for each reader.
type Lists struct {
	listing.Site
	Here int                         // the page, or None
	Line func(ids []string) []string // the summaries of pages; nil: there are none
	Fact func(entry, label string) string
}

// Of gives the items of a block, for Compose.
func (l Lists) Of(b content.Block) (items []Listed, opened int) {
	if n, is := listing.Opened(b); is {
		return nil, n
	}
	switch b.Type {
	case content.FactRow:
		return l.facts(b), 0
	case content.Strip:
		return l.items(b, false), 0
	case content.Tiles:
		if b.Get("from") == content.OwnTiles {
			return l.items(b, true), 0
		}
	}
	out := l.pages(l.Pages(b, l.Here), b.Type == content.Tiles || b.Get("summaries") == content.Yes)
	if b.Get("figures") == content.Yes {
		for i := range out {
			out[i].Value = l.figure(b.Type, out[i].Href)
		}
	}
	return out, 0
}

// figure is why a page is on a list: when it changed, or how often it was asked for.
func (l Lists) figure(kind content.BlockType, href string) string {
	id, _ := content.FoundLink{To: href}.Entry()
	switch {
	case kind == content.Asked && l.Visits != nil:
		return strconv.Itoa(l.Visits(id))
	case kind == content.NewsList && l.News != nil:
		if day, err := time.Parse(time.DateOnly, l.News(id)); err == nil {
			return day.Format("2 Jan 2006")
		}
	case kind == content.Newest && l.Changed != nil:
		return l.Changed(id).Format("2 Jan 2006")
	}
	return ""
}

func (l Lists) pages(at []int, lines bool) []Listed {
	out := make([]Listed, 0, len(at))
	ids := make([]string, 0, len(at))
	for _, i := range at {
		if l.leads(i) {
			e := l.Tree.Ref(i)
			out = append(out, Listed{Title: e.Name(), Href: content.Scheme + e.ID})
			ids = append(ids, e.ID)
		}
	}
	if lines && l.Line != nil && len(ids) > 0 {
		for k, line := range l.Line(ids) {
			out[k].Line = line
		}
	}
	return out
}

// items are those that an editor chose. One whose page readers cannot reach is left out;
// title and line follow the page until they are written.
func (l Lists) items(b content.Block, lines bool) []Listed {
	var out []Listed
	var ids []string // of those without a line of their own
	var at []int     // where they stand
	for _, it := range b.Items {
		to := Listed{Title: it["title"], Href: it["to"], Line: it["line"], Symbol: it["symbol"], Picture: it["picture"]}
		if id, isPage := (content.FoundLink{To: to.Href}).Entry(); isPage {
			i := l.Tree.Find(id)
			if !l.leads(i) {
				continue
			}
			to.Current = i == l.Here
			if to.Title == "" {
				to.Title = l.Tree.Ref(i).Name()
			}
			if to.Line == "" {
				ids, at = append(ids, id), append(at, len(out))
			}
		} else if to.Href = string(safeLink(to.Href)); to.Title == "" {
			to.Title = it["to"]
		}
		out = append(out, to)
	}
	if lines && l.Line != nil && len(ids) > 0 {
		for k, line := range l.Line(ids) {
			out[at[k]].Line = line
		}
	}
	return out
}

// leads tells whether an entry leads a reader anywhere.
func (l Lists) leads(i int) bool { return i != sitemap.None && menu.Href(l.Tree, i) != "" }

func (l Lists) facts(b content.Block) []Listed {
	var out []Listed
	for _, it := range b.Items {
		f := Listed{Label: it["label"], Value: it["value"], Line: it["line"]}
		if id, ok := (content.FoundLink{To: it["of"]}).Entry(); ok && f.Value == "" && l.Fact != nil {
			if l.leads(l.Tree.Find(id)) {
				f.Value = l.Fact(id, it["fact"])
			}
			if f.Label == "" {
				f.Label = it["fact"]
			}
		}
		if f.Value != "" {
			out = append(out, f)
		}
	}
	return out
}
