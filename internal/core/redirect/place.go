package redirect

import (
	"path"
	"strings"

	"candlepath/internal/core/sitemap"
)

// PlaceOf tells where a page of an address would stand: the id of the page right above it, empty
// where none is, and a title of its last segment.
func PlaceOf(t *sitemap.Tree, normal string) (above, title string) {
	up, last := path.Split(normal)
	if up = strings.TrimSuffix(up, "/"); up == "" {
		up = "/"
	}
	if i := t.PageAt(up); i != sitemap.None {
		above = t.Ref(i).ID
	}
	last = strings.TrimSuffix(strings.TrimSuffix(last, ".html"), ".htm")
	words := strings.FieldsFunc(last, func(r rune) bool { return r == '-' || r == '_' || r == '.' || r == '+' })
	title = strings.Join(words, " ")
	if title != "" {
		title = strings.ToUpper(title[:1]) + title[1:]
	}
	return above, title
}
