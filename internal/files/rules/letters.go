package rules

import (
	"fmt"
	"slices"
	"strings"
	"unicode"

	"golang.org/x/text/unicode/norm"

	"candlepath/internal/core/address"
)

// What servers carry along behind a prefix row is written as we write it: each letter beyond ASCII
// small and composed. They know no such thing, so the rules hold a table of all letters that are
// written otherwise, and look them up one after the other.

// mostLetters is how many letters beyond ASCII are written anew in one address.
const mostLetters = 31

// letter is a letter as it may come, its marks behind it, and as it is written.
type letter struct{ from, to string }

// letters gives every letter that is not written as it comes, capitals of ASCII apart.
func letters() (out []letter) {
	put := func(from string) {
		normal, err := address.Normal("/" + from)
		if to := strings.TrimPrefix(normal, "/"); err == nil && to != from && asciiLower(from) == from {
			out = append(out, letter{from, to})
		}
	}
	for r := rune(0x80); r <= unicode.MaxRune; r++ {
		if !unicode.IsLetter(r) && !unicode.Is(unicode.Other_Lowercase, r) && !unicode.Is(unicode.Other_Uppercase, r) || unicode.Is(unicode.Hangul, r) {
			continue
		}
		whole := string(r)
		apart := asciiLower(norm.NFD.String(whole))
		put(whole)
		put(apart)
		for i := range apart { // composed in part
			if i > 0 {
				put(norm.NFC.String(apart[:i]) + apart[i:])
			}
		}
	}
	slices.SortFunc(out, func(a, b letter) int { return strings.Compare(a.from, b.from) })
	return slices.Compact(out)
}

// writtenLetters gives every letter that comes otherwise than it is written in a link, and the small letters of the alphabets
// that addresses are mostly written in, since servers escape them with small digits.
func writtenLetters() map[string]string {
	out := map[string]string{}
	for _, l := range letters() {
		out[l.from] = address.Written(l.to)
	}
	for _, block := range [][2]rune{{0x80, 0x58f}, {0x1e00, 0x1fff}} { // Latin, Greek, Cyrillic, Armenian
		for r := block[0]; r <= block[1]; r++ {
			if s := string(r); unicode.IsLetter(r) && out[s] == "" {
				out[s] = address.Written(s)
			}
		}
	}
	return out
}

// escapedBytes escapes what is beyond ASCII, with small digits.
func escapedBytes(s string) string {
	var b strings.Builder
	for i := range len(s) {
		if s[i] < 0x80 {
			b.WriteByte(s[i])
		} else {
			fmt.Fprintf(&b, "%%%02x", s[i])
		}
	}
	return b.String()
}

// escapedLetters gives them for a server that carries along what was escaped as it came: as escapes with small digits, or as
// they are.
func escapedLetters() map[string]string {
	out := writtenLetters()
	for from, to := range writtenLetters() {
		out[escapedBytes(from)] = to
	}
	return out
}

// The forms of what comes before a letter, of the letter with its marks, and of what follows: as bytes, and escaped or as bytes.
// Marks are those of the Latin, Greek, Cyrillic, Arabic and Japanese scripts.
const (
	markBytes     = `\xcc[\x80-\xbf]|\xcd[\x80-\xaf]|\xd9[\x93-\x95]|\xe3\x82[\x99\x9a]`
	letterBytes   = `^([\x00-\x7f]*?)((?:[a-z](?=` + markBytes + `)|[\xc2-\xf4][\x80-\xbf]+)(?:` + markBytes + `)*)(.*)$`
	markEscaped   = `%cc%[89ab][0-9a-f]|%cd%[89a][0-9a-f]|%d9%9[3-5]|%e3%82%9[9a]|` + markBytes
	letterEscaped = `^(?<cp_before>(?:[^%\x80-\xff]|%[0-7])*?)(?<cp_l>(?:[a-z](?=` + markEscaped + `)|%[c-f][0-9a-f](?:%[89ab][0-9a-f])+|[\xc2-\xf4][\x80-\xbf]+)(?:` + markEscaped + `)*)(?<cp_after>.*)$`
)
