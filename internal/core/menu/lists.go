package menu

import (
	"cmp"
	"slices"
	"strings"
	"unicode"

	"golang.org/x/text/collate"
	"golang.org/x/text/language"
	"golang.org/x/text/unicode/norm"

	"candlepath/internal/core/sitemap"
)

// Letter is the pages of an index that begin with one letter.
type Letter struct {
	Name  string
	Pages []IndexItem
}

// IndexItem is a page of the index; Within tells where it is, for titles that are
// there more than once.
type IndexItem struct {
	Title, Href, Within string
}

// Index lists all pages that menus may show by title, letter by letter. What
// begins with no letter comes last. Titles are sorted as people do, accents and
// case aside (Unicode Technical Standard 10).
func (m *Maker) Index() []Letter {
	t := m.tree
	var pages []int
	times := map[string]int{}
	for i := range t.Len() {
		if t.Served(i) != "" && m.Shown(i) {
			pages = append(pages, i)
			times[t.Ref(i).Title]++
		}
	}
	c := collate.New(language.Und, collate.IgnoreCase, collate.Numeric)
	var buf collate.Buffer
	keys := make(map[int][]byte, len(pages))
	for _, i := range pages {
		bare := strings.TrimLeftFunc(t.Ref(i).Title, func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) })
		keys[i] = c.KeyFromString(&buf, bare)
	}
	slices.SortStableFunc(pages, func(a, b int) int { return cmp.Compare(string(keys[a]), string(keys[b])) })
	var out []Letter
	var others []IndexItem
	for _, i := range pages {
		e := t.Ref(i)
		item := IndexItem{Title: e.Title, Href: m.Href(i)}
		if p := t.Parent(i); times[e.Title] > 1 && p != sitemap.None {
			item.Within = t.Ref(p).Title
		}
		name := initial(e.Title)
		if name == "" {
			others = append(others, item)
			continue
		}
		k := slices.IndexFunc(out, func(l Letter) bool { return l.Name == name })
		if k < 0 {
			k = len(out)
			out = append(out, Letter{Name: name})
		}
		out[k].Pages = append(out[k].Pages, item)
	}
	if len(others) > 0 {
		out = append(out, Letter{"0–9", others})
	}
	return out
}

// initial is the letter under which a title stands, without its accent; "" where
// it begins with none.
func initial(title string) string {
	for _, r := range norm.NFD.String(title) {
		switch {
		case unicode.IsLetter(r):
			return string(unicode.ToUpper(r))
		case unicode.IsDigit(r):
			return ""
		}
	}
	return ""
}

// Overview is all that menus may show, from the top down to a level.
func (m *Maker) Overview(levels int) []Item {
	var down func(i, left int) []Item
	down = func(i, left int) []Item {
		var out []Item
		for c := range m.tree.Children(i) {
			it, ok := m.item(c, sitemap.None)
			if !ok {
				continue
			}
			if left > 1 || it.Href == "" {
				it.Below = down(c, left-1)
			}
			if it.Href != "" || len(it.Below) > 0 {
				out = append(out, it)
			}
		}
		return out
	}
	return down(m.tree.Home(), levels)
}
