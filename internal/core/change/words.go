package change

import (
	"fmt"

	"candlepath/internal/core/sitemap"
)

func placementWords(c Change, live, next *sitemap.Tree) string {
	switch c.Because {
	case moved:
		w := fmt.Sprintf("moved from %s to %s", place(live, c.ID), place(next, c.ID))
		return w + more(next, c.ID)
	case renamed:
		return fmt.Sprintf("address becomes %s instead of %s", c.After, c.Before) + more(next, c.ID)
	default:
		return c.Because
	}
}

func titleOf(t *sitemap.Tree, id string) string {
	if i := t.Find(id); i != sitemap.None {
		return t.Ref(i).Title
	}
	return id
}

// place names what an entry stands below.
func place(t *sitemap.Tree, id string) string {
	p := t.Parent(t.Find(id))
	if p == sitemap.None || p == t.Home() {
		return "the top"
	}
	return fmt.Sprintf("%q", t.Ref(p).Title)
}

func under(t *sitemap.Tree, id string) string {
	if p := place(t, id); p != "the top" {
		return " below " + p
	}
	return " at the top"
}

func more(t *sitemap.Tree, id string) string {
	if i := t.Find(id); t.End(i)-i > 1 {
		return fmt.Sprintf(", with %d below it", t.End(i)-i-1)
	}
	return ""
}

func orNone(s string) string {
	if s == "" {
		return "none"
	}
	return fmt.Sprintf("%q", s)
}

func orAll(s string) string {
	if s == "" {
		return "everybody"
	}
	return s
}
