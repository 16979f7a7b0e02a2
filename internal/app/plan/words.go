package plan

import (
	"strings"

	"candlepath/internal/core/sitemap"
)

// LowerFirst writes the first letter of a word small, to put it inside a sentence.
func LowerFirst(s string) string { return strings.ToLower(s[:1]) + s[1:] }

// SentenceOf makes a sentence of an error: a capital first, a full stop last.
func SentenceOf(err error) string {
	s := err.Error()
	return strings.ToUpper(s[:1]) + s[1:] + "."
}

// Plural writes a number with the noun that fits it: "1 page", "1,204 pages".
func Plural(n int, one, many string) string {
	if n == 1 {
		return one
	}
	return many
}

// TitleOf gives the title of an entry as it is quoted in sentences; its id if there is
// no such entry.
func TitleOf(t *sitemap.Tree, id string) string {
	if i := t.Find(id); i != sitemap.None {
		return t.Ref(i).Title
	}
	return id
}
