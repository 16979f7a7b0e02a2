package navigation

import (
	"fmt"
	"slices"

	"candlepath/internal/core/address"
	"candlepath/internal/core/menu"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/web/studio/part"
)

// menuLine is one item as its row shows it.
type menuLine struct {
	Key, Parent, DOM string
	Level            int
	Title, Address   string
	Symbol, What     string // What: of the editor's items, which kind
	Why              string
	Tags             []string
	Twist            string // "open" or "closed"; empty where nothing is below
	At               bool
	Holds            bool
}

const menuLinesShown = 1500

// lines lists the items that are in sight. A long menu starts closed; toggled
// are the keys that somebody opened or closed.
func (v *menusView) lines(l *menu.Layout, t *sitemap.Tree, at string, toggled []string) {
	all := l.Lines()
	const open = 200 // so many items are shown opened
	has := map[string]bool{}
	for _, line := range all {
		has[line.Parent] = true
	}
	shown := map[string]bool{"": true}
	hidden := 0
	for n, line := range all {
		isOpen := (len(all) <= open) != slices.Contains(toggled, line.Key)
		if !shown[line.Parent] {
			continue
		}
		shown[line.Key] = isOpen
		if len(v.Lines) >= menuLinesShown {
			hidden++
			continue
		}
		row := newMenuLine(line, t)
		row.DOM, row.At = fmt.Sprintf("mi-%d", n), line.Key == at
		if has[line.Key] {
			row.Twist = "closed"
			if isOpen {
				row.Twist = "open"
			}
		}
		v.Lines = append(v.Lines, row)
	}
	if hidden > 0 {
		v.More = part.Thousands(hidden) + " more; close branches to see them."
	}
}

// kindWords names the editor's items.
var kindWords = map[menu.Kind]string{menu.AnEntry: "added", menu.Children: "added: what is below a page", menu.Label: "label", menu.Link: "outside link", menu.Divider: "divider"}

func newMenuLine(line menu.Line, t *sitemap.Tree) menuLine {
	row := menuLine{
		Key: line.Key, Parent: line.Parent, Level: line.Level, Title: line.Title, Symbol: line.Override.Symbol, What: kindWords[line.Override.Kind],
		Why: line.Why.Words(), Holds: line.Holds, Address: line.Href,
	}
	switch {
	case line.Override.Kind == menu.Divider:
		row.Title = "———"
	case row.Title == "" && line.Entry == sitemap.None:
		row.Title = "A page that is gone"
	case line.Entry != sitemap.None:
		row.Address = part.OrElse(address.Written(t.Claim(line.Entry)), line.Href)
	}
	if !line.Own() && line.Override.Title != "" {
		row.Tags = append(row.Tags, "own words")
	}
	if !line.Own() && line.Arranged {
		row.Tags = append(row.Tags, "placed")
	}
	return row
}
