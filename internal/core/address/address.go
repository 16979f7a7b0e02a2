// Package address knows what a URL path of the site is: its normal form, the
// form it is written in, which first segments are reserved, and how a slug is
// made from a title.
//
// Two addresses are the same when their normal forms are. The normal form is
// for people and maps: decoded, composed (NFC), folded, without doubled or
// trailing slashes, dot segments or a trailing index.html. The written form is
// for the wire: the normal form with everything outside RFC 3986 escaped as
// UTF-8 in upper-case hex.
//
//	/Visitors//opening-hours/   normal  /visitors/opening-hours
//	/pflanzen/u%CC%88bersicht   normal  /pflanzen/übersicht
//	                            written /pflanzen/%C3%BCbersicht
//
// An escape stays an escape where decoding would change what the path means:
// reserved characters of RFC 3986, control characters and the per cent sign.
package address

import (
	"errors"
	"fmt"
	"net/url"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/unicode/norm"
)

// ErrRefused is wrapped by every error of Normal: the text is no address.
var ErrRefused = errors.New("not an address")

// Options of a site that bear on addresses.
type Options struct {
	// KeepCase switches case folding off. The zero value folds.
	KeepCase bool
}

// Normal gives the normal form of a path with the options of a site that folds
// case. The path must not carry a query or fragment; see Split.
func Normal(path string) (string, error) { return Options{}.Normal(path) }

// Normal gives the normal form of a path. A path already in normal form is
// returned as it is, without allocating.
func (o Options) Normal(path string) (string, error) {
	if isNormal(path) {
		return path, nil
	}
	decoded, err := o.decode(path)
	if err != nil {
		return "", fmt.Errorf("%w: %s: %q", ErrRefused, err, path)
	}
	return joinSegments(strings.Split(decoded, "/")), nil
}

// FromFile gives the normal form of the address at which a file of that path
// answers when its folder is a site.
func FromFile(path string) (string, error) {
	return Normal((&url.URL{Path: "/" + strings.TrimLeft(path, "/")}).EscapedPath())
}

// isNormal tells quickly, and only for plain lower-case ASCII, that nothing
// needs doing.
func isNormal(path string) bool {
	if path == "/" {
		return true
	}
	if len(path) < 2 || path[0] != '/' {
		return false
	}
	start := 1
	for i := 1; i <= len(path); i++ {
		if i == len(path) || path[i] == '/' {
			seg := path[start:i]
			if seg == "" || seg == "." || seg == ".." {
				return false
			}
			if i == len(path) && isIndex(seg) {
				return false
			}
			start = i + 1
			continue
		}
		if c := path[i]; !plain[c] {
			return false
		}
	}
	return true
}

// plain marks the bytes that no rule of the normal form touches.
var plain = func() (t [256]bool) {
	for _, c := range []byte("abcdefghijklmnopqrstuvwxyz0123456789-._~") {
		t[c] = true
	}
	return t
}()

func isIndex(seg string) bool {
	return strings.EqualFold(seg, "index.html") || strings.EqualFold(seg, "index.htm")
}

const (
	reserved = ":/?#[]@!$&'()*+,;="
	hexUpper = "0123456789ABCDEF"
)

// decode resolves escapes, composes and folds. What must stay escaped is kept
// as %XX with upper-case digits, and so is a bare per cent sign.
func (o Options) decode(path string) (string, error) {
	raw := make([]byte, 0, len(path))
	kept := make([]bool, 0, len(path)) // kept[i]: raw[i] is to be written as an escape
	for i := 0; i < len(path); i++ {
		c, escaped := path[i], false
		if c == '%' {
			if hi, lo := unhex(path, i+1), unhex(path, i+2); hi >= 0 && lo >= 0 {
				c, escaped = byte(hi<<4|lo), true
				i += 2
			}
		}
		raw = append(raw, c)
		kept = append(kept, c == '%' || c == '?' || c == '#' ||
			escaped && strings.IndexByte(reserved, c) >= 0)
	}
	if !utf8.Valid(raw) {
		return "", errors.New("it is not UTF-8")
	}
	var out, run strings.Builder
	flush := func() {
		out.WriteString(o.compose(run.String()))
		run.Reset()
	}
	for i := 0; i < len(raw); {
		r, n := utf8.DecodeRune(raw[i:])
		switch {
		case r == 0:
			return "", errors.New("it contains a NUL")
		case r == '\\':
			return "", errors.New("it contains a backslash")
		case kept[i] || unicode.IsControl(r):
			flush()
			writeEscaped(&out, raw[i:i+n])
		default:
			run.WriteRune(r)
		}
		i += n
	}
	flush()
	return out.String(), nil
}

func (o Options) compose(s string) string {
	s = norm.NFC.String(s)
	if o.KeepCase {
		return s
	}
	return norm.NFC.String(strings.Map(fold, s))
}

// fold is simple case folding (the C and S rows of Unicode's CaseFolding.txt):
// one rune to one rune, so ß stays and ẞ becomes ß.
func fold(r rune) rune {
	if r < utf8.RuneSelf {
		if 'A' <= r && r <= 'Z' {
			r += 'a' - 'A'
		}
		return r
	}
	if unicode.SimpleFold(r) == r {
		return r
	}
	if unicode.Is(unicode.Cherokee, r) {
		return unicode.ToUpper(r)
	}
	return unicode.ToLower(unicode.ToUpper(r))
}

func unhex(s string, i int) int {
	if i >= len(s) {
		return -1
	}
	switch c := s[i]; {
	case '0' <= c && c <= '9':
		return int(c - '0')
	case 'a' <= c && c <= 'f':
		return int(c-'a') + 10
	case 'A' <= c && c <= 'F':
		return int(c-'A') + 10
	}
	return -1
}

func writeEscaped(b *strings.Builder, bytes []byte) {
	for _, c := range bytes {
		b.WriteByte('%')
		b.WriteByte(hexUpper[c>>4])
		b.WriteByte(hexUpper[c&15])
	}
}

func joinSegments(segments []string) string {
	kept := segments[:0]
	for _, seg := range segments {
		switch seg {
		case "", ".":
		case "..":
			kept = kept[:max(0, len(kept)-1)]
		default:
			kept = append(kept, seg)
		}
	}
	for len(kept) > 0 && isIndex(kept[len(kept)-1]) {
		kept = kept[:len(kept)-1]
	}
	return "/" + strings.Join(kept, "/")
}

// Written gives the form of a normal address that is sent and shown in links.
func Written(normal string) string {
	clean := true
	for i := 0; i < len(normal) && clean; i++ {
		clean = !mustEscape(normal[i])
	}
	if clean {
		return normal
	}
	var b strings.Builder
	for i := 0; i < len(normal); i++ {
		if mustEscape(normal[i]) {
			writeEscaped(&b, []byte{normal[i]})
		} else {
			b.WriteByte(normal[i])
		}
	}
	return b.String()
}

func mustEscape(c byte) bool { return !asIs[c] }

// asIs are the bytes that stand in a link as they are.
var asIs = func() (is [256]bool) {
	for c := range 256 {
		letter := 'a' <= c && c <= 'z' || 'A' <= c && c <= 'Z' || '0' <= c && c <= '9'
		is[c] = letter || strings.IndexByte("-._~%"+reserved, byte(c)) >= 0
	}
	return is
}()

// PathOf gives the path of a URL as it was written, with what ought to be escaped escaped. (Where a character ought to be,
// url.URL.EscapedPath writes the whole path anew, and an escaped slash becomes a slash.)
func PathOf(u *url.URL) string {
	if u.RawPath == "" {
		return u.EscapedPath()
	}
	return Written(u.RawPath)
}

// Split cuts an address as written into path, query (without the question
// mark) and fragment (without the hash).
func Split(s string) (path, query, fragment string) {
	s, fragment, _ = strings.Cut(s, "#")
	path, query, _ = strings.Cut(s, "?")
	return path, query, fragment
}

// Key gives the form under which an older address with a query is looked up:
// the normal path and the query with its parameters sorted. Without a query it
// is the normal path.
func (o Options) Key(s string) (string, error) {
	path, query, _ := Split(s)
	normal, err := o.Normal(path)
	if err != nil || query == "" {
		return normal, err
	}
	return normal + "?" + SortQuery(query), nil
}

// SortQuery sorts the parameters of a query by bytes; a parameter given twice
// keeps its order.
func SortQuery(query string) string {
	params := strings.Split(query, "&")
	if len(params) == 1 {
		return query
	}
	params = slices.DeleteFunc(params, func(p string) bool { return p == "" })
	slices.SortStableFunc(params, func(a, b string) int {
		ka, _, _ := strings.Cut(a, "=")
		kb, _, _ := strings.Cut(b, "=")
		return strings.Compare(ka, kb)
	})
	return strings.Join(params, "&")
}

// IsURL tells whether s is an absolute URL with a host, such as
// https://weather.quillmere.example/now, or a mail address link.
func IsURL(s string) bool {
	scheme, rest, ok := strings.Cut(s, ":")
	switch strings.ToLower(scheme) {
	case "http", "https":
		return ok && strings.HasPrefix(rest, "//") && len(rest) > 2
	case "mailto", "tel":
		return ok && rest != ""
	}
	return false
}

// PathOn gives the path, query and fragment of a URL that lies on one of the
// hosts, and whether it does.
func PathOn(rawURL string, hosts []string) (string, bool) {
	if len(hosts) == 0 || !IsURL(rawURL) {
		return "", false
	}
	u, err := url.Parse(rawURL)
	if err != nil || !slices.ContainsFunc(hosts, func(h string) bool { return strings.EqualFold(h, u.Host) }) {
		return "", false
	}
	rest := PathOf(u)
	if rest == "" {
		rest = "/"
	}
	if u.RawQuery != "" {
		rest += "?" + u.RawQuery
	}
	if u.Fragment != "" {
		rest += "#" + u.EscapedFragment()
	}
	return rest, true
}

// Below tells whether addr is base or lies below it, and gives the rest of the
// path ("" or "/…").
func Below(base, addr string) (rest string, ok bool) {
	if base == "/" {
		return strings.TrimSuffix(addr, "/"), true
	}
	rest, ok = strings.CutPrefix(addr, base)
	return rest, ok && (rest == "" || rest[0] == '/')
}

// Join appends the rest that Below gave to a base.
func Join(base, rest string) string {
	if base == "/" && rest != "" {
		return rest
	}
	return base + rest
}

// reservedSegments are first segments that the program itself answers.
var reservedSegments = []string{
	"assets", "favicon.ico", "feed.atom", "files", "healthz", "readyz",
	"robots.txt", "search", "sitemap.xml", "studio",
}

// Reserved tells whether a page may not have this address, because the program
// itself answers there.
func Reserved(normal string) bool {
	first, _, _ := strings.Cut(strings.TrimPrefix(normal, "/"), "/")
	return slices.Contains(reservedSegments, first)
}

// ReservedSegments lists them, sorted, for messages.
func ReservedSegments() []string { return slices.Clone(reservedSegments) }
