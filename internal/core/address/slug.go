package address

import (
	"strconv"
	"strings"
	"unicode"

	"golang.org/x/text/unicode/norm"
)

// MaxSlug is the length of the longest slug, suffix included.
const MaxSlug = 80

// letters that no decomposition turns into ASCII.
var letters = map[rune]string{
	'ß': "ss", 'ẞ': "ss", 'æ': "ae", 'Æ': "ae", 'ø': "o", 'Ø': "o", 'ł': "l", 'Ł': "l",
	'đ': "d", 'Đ': "d", 'œ': "oe", 'Œ': "oe", 'þ': "th", 'Þ': "th", 'ð': "d", 'Ð': "d",
	'ħ': "h", 'Ħ': "h", 'ı': "i",
}

// Slug makes the last segment of an address from a title: transliterated,
// lower case a-z, 0-9 and hyphens, cut at a word. A title of which nothing is
// left gives "page".
func Slug(title string) string {
	var b strings.Builder
	gap := false
	put := func(s string) {
		if gap && b.Len() > 0 {
			b.WriteByte('-')
		}
		gap = false
		b.WriteString(s)
	}
	for _, r := range norm.NFKD.String(title) {
		if b.Len() > 4*MaxSlug {
			break
		}
		switch {
		case 'a' <= r && r <= 'z', '0' <= r && r <= '9':
			put(string(r))
		case 'A' <= r && r <= 'Z':
			put(string(r + 'a' - 'A'))
		case letters[r] != "":
			put(letters[r])
		case unicode.Is(unicode.Mn, r):
		default:
			gap = true
		}
	}
	if slug := cutAtWord(b.String(), MaxSlug); slug != "" {
		return slug
	}
	return "page"
}

// Plain writes a text with letters of ASCII where there are such.
func Plain(s string) string {
	ascii := true
	for i := 0; i < len(s) && ascii; i++ {
		ascii = s[i] < 0x80
	}
	if ascii {
		return s
	}
	var b strings.Builder
	for _, r := range norm.NFKD.String(s) {
		switch {
		case letters[r] != "":
			b.WriteString(letters[r])
		case !unicode.Is(unicode.Mn, r):
			b.WriteRune(r)
		}
	}
	return b.String()
}

func cutAtWord(s string, most int) string {
	if len(s) <= most {
		return s
	}
	if cut := strings.LastIndexByte(s[:most+1], '-'); cut > 0 {
		return s[:cut]
	}
	return s[:most]
}

// Unused gives slug, or slug with the first of -2, -3, … that taken does not
// know. The suffix counts towards the length.
func Unused(slug string, taken func(string) bool) string { return new(Namer).Unused(slug, taken) }

// Namer gives unused slugs one after another in a space in which none becomes
// free. It remembers how far it counted, so that thousands of equal titles cost
// no more than thousands of different ones.
type Namer struct{ counted map[string]int }

// Unused is the function of that name.
func (n *Namer) Unused(slug string, taken func(string) bool) string {
	if !taken(slug) {
		return slug
	}
	if n.counted == nil {
		n.counted = map[string]int{}
	}
	for i := max(n.counted[slug], 1) + 1; ; i++ {
		suffix := "-" + strconv.Itoa(i)
		if s := cutAtWord(slug, MaxSlug-len(suffix)) + suffix; !taken(s) {
			n.counted[slug] = i
			return s
		}
	}
}

// NormalSlug gives the normal form of a slug set by hand or read from a file,
// and whether it can be a segment of an address at all.
func (o Options) NormalSlug(slug string) (string, bool) {
	if slug == "" || strings.ContainsAny(slug, "/?#") {
		return "", false
	}
	n, err := o.Normal("/" + slug)
	if err != nil || n == "/" || strings.Contains(n[1:], "/") || len(n)-1 > MaxSlug {
		return "", false
	}
	return n[1:], true
}
