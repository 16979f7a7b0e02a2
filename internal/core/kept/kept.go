// Package kept holds the rules for files that a site keeps: which kinds there are, how they
// are handed out, what they are called, and in which sizes pictures are made.
//
// A kind is told by what a file holds; its name only decides between kinds that look alike,
// such as the several that are zip archives. Only pictures that cannot run anything are
// shown in a page; everything else is a download.
package kept

import (
	"path"
	"slices"
	"strings"
	"unicode"

	"candlepath/internal/core/address"
)

// Kind is a kind of file.
type Kind struct {
	Type    string // MIME type
	Endings []string
	Picture bool // shown in pages, in sizes
}

// kinds is the table of kinds. A type of a sniffed file that is not in it is Other.
var kinds = []Kind{
	{"image/jpeg", []string{".jpg", ".jpeg"}, true},
	{"image/png", []string{".png"}, true},
	{"image/gif", []string{".gif"}, true},
	{"image/webp", []string{".webp"}, true},
	{"application/pdf", []string{".pdf"}, false},
	{"application/zip", []string{".zip", ".docx", ".xlsx", ".pptx", ".odt", ".ods", ".odp", ".epub"}, false},
	{"text/plain", []string{".txt", ".csv", ".md", ".ics", ".svg", ".html", ".htm", ".json", ".xml", ".vcf"}, false},
}

// Other is a file of a kind that is not told.
var Other = Kind{Type: "application/octet-stream"}

// KindOf gives the kind of a file by the type that it was sniffed to be.
func KindOf(sniffed string) Kind {
	sniffed, _, _ = strings.Cut(sniffed, ";")
	if i := slices.IndexFunc(kinds, func(k Kind) bool { return k.Type == sniffed }); i >= 0 {
		return kinds[i]
	}
	if strings.HasPrefix(sniffed, "text/") || sniffed == "image/svg+xml" {
		return KindOf("text/plain")
	}
	return Other
}

const longestName = 80 // characters, without the ending

// Name is what a file is called in its address: small letters, digits, hyphens, and an
// ending of its kind.
func (k Kind) Name(given string) string {
	given = path.Base(strings.ReplaceAll(given, `\`, "/"))
	ending := strings.ToLower(path.Ext(given))
	base := strings.TrimSuffix(given, path.Ext(given))
	if !strings.ContainsFunc(base, func(r rune) bool { return unicode.IsLetter(r) || unicode.IsDigit(r) }) {
		base = "file"
	}
	base = address.Slug(base)
	if len(base) > longestName {
		base = strings.TrimRight(base[:longestName], "-")
	}
	switch {
	case slices.Contains(k.Endings, ending):
		return base + ending
	case len(k.Endings) > 0:
		return base + k.Endings[0]
	}
	if e := strings.TrimPrefix(ending, "."); e != "" && len(e) < 8 && e == address.Slug(e) {
		return base + "." + e
	}
	return base + ".bin"
}

// Given is what a download of a file is called: as it was where it came from, with the ending
// of its kind.
func (k Kind) Given(given string) string {
	given = path.Base(strings.ReplaceAll(given, `\`, "/"))
	base := []rune(strings.TrimSuffix(given, path.Ext(given)))
	base = slices.DeleteFunc(base, func(r rune) bool { return !unicode.IsPrint(r) || strings.ContainsRune(`"*/:<>?|`, r) })
	name := k.Name(given)
	if len(strings.Trim(string(base), ". ")) == 0 {
		return name
	}
	return strings.TrimSpace(string(base[:min(len(base), 2*longestName)])) + path.Ext(name)
}

// Widths are the sizes, in pixels, in which a picture is made besides its own.
func Widths(width int) (out []int) {
	for _, w := range []int{320, 640, 1000, 1400, 2000} {
		if w < width {
			out = append(out, w)
		}
	}
	return out
}

// MostPixels is how large a picture can be; a larger one would take the memory of others.
const MostPixels = 60_000_000
