package plan

import (
	"strings"

	"candlepath/internal/core/sitemap"
)

func LowerFirst(s string) string { return strings.ToLower(s[:1]) + s[1:] }

func SentenceOf(err error) string {
	s := err.Error()
	return strings.ToUpper(s[:1]) + s[1:] + "."
}

func Plural(n int, one, many string) string {
	if n == 1 {
		return one
	}
	return many
}

func TitleOf(t *sitemap.Tree, id string) string {
	if i := t.Find(id); i != sitemap.None {
		return t.Ref(i).Title
	}
	return id
}
