package shape

import (
	"strings"

	"candlepath/internal/core/menu"
	"candlepath/internal/core/sitemap"
)

// Written writes a menu or a trail as its readers get it, a line for each item or step, so that two
// of them can be compared; empty for everything else.
func Written(set Set, t *sitemap.Tree, id string) string {
	var b strings.Builder
	switch {
	case MenuOf(id) != "":
		for _, l := range menu.For(t, set.Menus()).Layout(MenuOf(id)).Lines() {
			if l.Why == 0 {
				b.WriteString(strings.Repeat("    ", max(l.Level-1, 0)) + l.Title + "\n")
			}
		}
	case TrailOf(id) != "":
		item, there := set[id]
		if !there || item.Trail == nil {
			return ""
		}
		for _, line := range []string{item.Trail.Title, item.Trail.About} {
			if line != "" {
				b.WriteString(line + "\n")
			}
		}
		for _, page := range item.Trail.Pages {
			if i := t.Find(page); i != sitemap.None {
				b.WriteString("    " + t.Ref(i).Title + "\n")
			}
		}
	}
	return b.String()
}
