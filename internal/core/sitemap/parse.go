package sitemap

import (
	"slices"
	"strings"
	"time"
)

// CleanTitle is the form in which titles are kept: white space folded, control
// characters and marks that change the direction of text dropped.
func CleanTitle(s string) string {
	s = strings.Map(func(c rune) rune {
		switch {
		case c == '\t' || c == '\n' || c == '\r' || c == '\u00a0':
			return ' '
		case c < 0x20 || c >= 0x7f && c < 0xa0, c >= 0x202a && c <= 0x202e, c >= 0x2066 && c <= 0x2069, c == 0x200e || c == 0x200f:
			return -1
		}
		return c
	}, s)
	return strings.Join(strings.Fields(s), " ")
}

// ParseKind reads the word for a kind; empty is a page.
func ParseKind(s string) (Kind, bool) {
	switch strings.ToLower(s) {
	case "", "page":
		return Page, true
	case "carried", "carried page":
		return Carried, true
	case "reference":
		return Reference, true
	case "outside", "outside link":
		return Outside, true
	case "file":
		return File, true
	case "group":
		return Group, true
	}
	return Page, false
}

// ParseNo tells whether a cell says that an entry is not listed.
func ParseNo(s string) bool {
	switch strings.ToLower(s) {
	case "no", "n", "false", "0", "unlisted", "not listed":
		return true
	}
	return false
}

// JoinTopics brings a list of topics, as it stands in a cell, into the form in
// which it is kept.
func JoinTopics(s string) string {
	parts := strings.FieldsFunc(s, func(r rune) bool { return r == ';' || r == '|' || r == ',' })
	kept := parts[:0]
	for _, p := range parts {
		if p = strings.TrimSpace(p); p != "" && !slices.Contains(kept, p) {
			kept = append(kept, p)
		}
	}
	return strings.Join(kept, "; ")
}

// ParseDate reads a day as people write it, where that is unambiguous, and gives
// it as 2006-01-02.
func ParseDate(s string) (string, bool) {
	for _, layout := range []string{time.DateOnly, "2.1.2006", "2 January 2006", "2 Jan 2006", "2006/1/2"} {
		if d, err := time.Parse(layout, s); err == nil {
			return d.Format(time.DateOnly), true
		}
	}
	return "", false
}
