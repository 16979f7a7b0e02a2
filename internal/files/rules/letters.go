package rules

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"sync"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/unicode/norm"

	"candlepath/internal/core/address"
)

// Servers know nothing of composed letters and of capitals beyond ASCII. So the rules hold a table of all characters that
// address.Normal writes otherwise, alone and with their marks apart, and look up the characters of a path one after the other.
// Two are left to the site: Korean syllables in parts, which would be 22,000 rows, and a letter whose first mark it cannot have
// and whose second it can.

// letters gives what a server looks up, with capitals of ASCII made small, and how that is written in a link. All of Unicode is
// read for it, so it is made once.
var letters = sync.OnceValue(func() map[string]string {
	out := map[string]string{}
	put := func(from string) {
		from = asciiLower(from)
		if normal, err := address.Normal("/" + from); err == nil && normal != "/"+from {
			out[from] = address.Written(normal[1:])
		}
	}
	for r := rune(utf8.RuneSelf); r <= unicode.MaxRune; r++ {
		whole := string(r)
		if unicode.SimpleFold(r) == r && norm.NFD.IsNormalString(whole) || unicode.Is(unicode.Hangul, r) {
			continue
		}
		apart := norm.NFD.String(whole)
		put(whole)
		for _, runes := range mixed([]rune(apart)) {
			for i := range runes { // the first i marks are composed with their letter
				put(norm.NFC.String(string(runes[:i+1])) + string(runes[i+1:]))
			}
		}
	}
	return out
})

// mixed gives a letter with its marks in every order.
func mixed(runes []rune) (out [][]rune) {
	out = [][]rune{runes}
	for i := 2; i < len(runes); i++ {
		for _, r := range out {
			for at := 1; at < i; at++ {
				other := slices.Clone(r)
				copy(other[at+1:i+1], r[at:i])
				other[at] = r[i]
				out = append(out, other)
			}
		}
	}
	return out
}

// marks gives what stands behind a letter in a table of letters.
func marks(of map[string]string) []rune {
	seen := map[rune]bool{}
	for from := range of {
		_, size := utf8.DecodeRuneInString(from)
		for _, r := range from[size:] {
			seen[r] = true
		}
	}
	return slices.Sorted(maps.Keys(seen))
}

func asciiLower(s string) string {
	return strings.Map(func(r rune) rune {
		if 'A' <= r && r <= 'Z' {
			return r + 'a' - 'A'
		}
		return r
	}, s)
}

// escapedBytes escapes what is beyond ASCII.
func escapedBytes(s string) string {
	var b strings.Builder
	for i := range len(s) {
		if s[i] < utf8.RuneSelf {
			b.WriteByte(s[i])
		} else {
			fmt.Fprintf(&b, "%%%02X", s[i])
		}
	}
	return b.String()
}

// Classes of regular expressions (PCRE): the bytes that stand in a path as they are (those of address.Written, the per cent sign
// apart), those of ASCII that do not, the numbers of escapes that stay escapes, and of those that no address has.
const (
	plainClass  = `\-._~:/@!$&'()*+,;=\[\]0-9a-z`
	coarseClass = `\x20\x22<>\^\x60{|}`
	keptEscape  = `2[13-9A-CFa-cf]|3[ABDFabdf]|40|5[BDbd]|0[1-9A-Fa-f]|1[0-9A-Fa-f]|7[Ff]`
	badEscape   = `00|5[Cc]`
)

// charBytes is a regular expression of a character beyond ASCII (RFC 3629), as bytes; charEscaped of one that is escaped.
const (
	charBytes = `[\xc2-\xdf][\x80-\xbf]|\xe0[\xa0-\xbf][\x80-\xbf]|[\xe1-\xec\xee\xef][\x80-\xbf]{2}|\xed[\x80-\x9f][\x80-\xbf]|` +
		`\xf0[\x90-\xbf][\x80-\xbf]{2}|[\xf1-\xf3][\x80-\xbf]{3}|\xf4[\x80-\x8f][\x80-\xbf]{2}`
	charEscaped = `(?i:%(?:c[2-9a-f]|d.)%[89ab].|%e0%[ab].%[89ab].|%e[1-9a-cef](?:%[89ab].){2}|%ed%[89].%[89ab].|` +
		`%f0%[9ab].(?:%[89ab].){2}|%f[1-3](?:%[89ab].){3}|%f4%8.(?:%[89ab].){2})`
)

// anyOf gives a regular expression of one of some characters, by what is written for a byte and for a set of bytes.
func anyOf(runes []rune, byteOf func(byte) string, setOf func([]byte) string) string {
	last := map[string][]byte{}
	for _, r := range runes {
		s := string(r)
		head := s[:len(s)-1]
		last[head] = append(last[head], s[len(s)-1])
	}
	var out []string
	for _, head := range slices.Sorted(maps.Keys(last)) {
		var b strings.Builder
		for i := range len(head) {
			b.WriteString(byteOf(head[i]))
		}
		out = append(out, b.String()+setOf(last[head]))
	}
	return strings.Join(out, "|")
}

// anyOfBytes is anyOf for bytes as they are.
func anyOfBytes(runes []rune) string {
	return anyOf(runes, func(c byte) string { return fmt.Sprintf(`\x%02x`, c) }, func(set []byte) string {
		var b strings.Builder
		for _, c := range set {
			fmt.Fprintf(&b, `\x%02x`, c)
		}
		return "[" + b.String() + "]"
	})
}

// anyOfEscaped is anyOf for escapes with capital digits.
func anyOfEscaped(runes []rune) string {
	return anyOf(runes, func(c byte) string { return fmt.Sprintf(`%%%02X`, c) }, escapedSet)
}

// escapedSet gives a regular expression of an escape of one of some bytes.
func escapedSet(set []byte) string {
	seconds := map[byte]string{}
	for _, c := range set {
		seconds[c>>4] += fmt.Sprintf("%X", c&15)
	}
	firsts := map[string]string{}
	for _, first := range slices.Sorted(maps.Keys(seconds)) {
		firsts[seconds[first]] += fmt.Sprintf("%X", first)
	}
	var out []string
	for _, second := range slices.Sorted(maps.Keys(firsts)) {
		out = append(out, "["+firsts[second]+"]["+strings.Replace(second, "0123456789ABCDEF", "0-9A-F", 1)+"]")
	}
	return "%(?:" + strings.Join(out, "|") + ")"
}

// untouched gives a regular expression of escaped characters that are written as they come, in blocks of as many as share all
// bytes but the last, or but the last two of four.
func untouched(of map[string]string) string {
	known := map[string]bool{}
	block := func(r rune) string { s := string(r); return s[:min(2, len(s)-1)] }
	for from := range of {
		for _, r := range from {
			known[block(r)] = true
		}
	}
	next := map[byte][]byte{} // by the first byte of characters of three and four bytes
	var first []byte          // of characters of two
	for r := rune(utf8.RuneSelf); r <= unicode.MaxRune; r += 1 << (6 * (len(string(r)) - len(block(r)))) {
		switch head := block(r); {
		case known[head] || !utf8.ValidRune(r):
		case len(head) == 1:
			first = append(first, head[0])
		default:
			next[head[0]] = append(next[head[0]], head[1])
		}
	}
	const more = "%[89AB][0-9A-F]"
	leads := map[string][]byte{}
	for lead, set := range next {
		times := 1
		if lead >= 0xf0 {
			times = 2
		}
		rest := escapedSet(set) + strings.Repeat(more, times)
		leads[rest] = append(leads[rest], lead)
	}
	out := []string{escapedSet(first) + more}
	for _, rest := range slices.Sorted(maps.Keys(leads)) {
		slices.Sort(leads[rest])
		out = append(out, escapedSet(leads[rest])+rest)
	}
	return strings.Join(out, "|")
}
