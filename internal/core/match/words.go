package match

import (
	"net/url"
	"slices"
	"strings"
	"unicode"

	"candlepath/internal/core/address"
)

// stop are words that tell nothing of what a page is about.
var stop = map[string]bool{
	"a": true, "an": true, "and": true, "at": true, "by": true, "for": true, "from": true, "how": true, "in": true, "is": true, "it": true, "its": true,
	"of": true, "on": true, "or": true, "our": true, "the": true, "their": true, "this": true, "to": true, "what": true, "when": true, "where": true,
	"who": true, "with": true, "your": true, "you": true, "we": true, "us": true,
	"index": true, "default": true, "old": true, "new": true, "page": true, "welcome": true, "www": true, "html": true, "id": true,
}

// stands are the names of files that stand for their folder.
var stands = map[string]bool{"index": true, "default": true, "home": true, "welcome": true, "main": true}

// tokens gives the words of a text that tell something, each once, in their order, without case,
// marks on letters and the ends of plurals.
func tokens(text string) []string {
	var out []string
	seen := map[string]bool{}
	for _, w := range strings.FieldsFunc(spelt(text), func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) }) {
		if w = stem(w); w != "" && !stop[w] && !seen[w] {
			seen[w] = true
			out = append(out, w)
		}
	}
	return out
}

// spelt writes a text in small letters without marks, with CamelCase and percent-encoding
// taken apart.
func spelt(text string) string {
	if strings.Contains(text, "%") {
		if plain, err := url.PathUnescape(text); err == nil {
			text = plain
		}
	}
	var b strings.Builder
	var before rune
	for _, r := range text {
		if unicode.IsUpper(r) && unicode.IsLower(before) || unicode.IsDigit(r) != unicode.IsDigit(before) && before != 0 {
			b.WriteByte(' ')
		}
		b.WriteRune(unicode.ToLower(r))
		before = r
	}
	return address.Plain(b.String())
}

// stem takes the end of a plural away.
func stem(w string) string {
	switch n := len(w); {
	case n > 4 && strings.HasSuffix(w, "ies"):
		return w[:n-3] + "y"
	case n > 4 && (strings.HasSuffix(w, "sses") || strings.HasSuffix(w, "xes") || strings.HasSuffix(w, "ches") || strings.HasSuffix(w, "shes")):
		return w[:n-2]
	case n > 3 && w[n-1] == 's' && w[n-2] != 's' && w[n-2] != 'u' && w[n-2] != 'i':
		return w[:n-1]
	}
	return w
}

// bare is the last segment of an address without the end that tells a kind of file.
func bare(last string) string {
	if dot := strings.LastIndexByte(last, '.'); dot > 0 && len(last)-dot <= 6 {
		last = last[:dot]
	}
	return strings.ToLower(last)
}

// segments gives the words of the last segment of a path that tells something, and of those
// before.
func segments(path string) (own, above []string) {
	list := strings.Split(strings.Trim(path, "/"), "/")
	list[len(list)-1] = bare(list[len(list)-1])
	for len(list) > 1 && (stands[list[len(list)-1]] || list[len(list)-1] == "") {
		list = list[:len(list)-1]
	}
	own = tokens(list[len(list)-1])
	above = slices.DeleteFunc(tokens(strings.Join(list[:len(list)-1], " ")), func(w string) bool { return slices.Contains(own, w) })
	return own, above
}
