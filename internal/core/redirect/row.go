// Package redirect keeps every address that ever answered answering.
//
// # Table
//
// A row leads from an old address to where its visitors belong now. It matches
// exactly, as a prefix (the address and all below; the rest of the path is
// carried over), or as a branch (the address and all below, all to one place).
// One exact row and one of the other two may share a from. Code 410 has no
// target: the address is gone on purpose.
//
// # Resolving
//
// In this order: normalise → rows for the host name that is asked for, where it is an old one → live page → exact row (path with the sorted query
// first, then the path alone) → longest prefix or branch row that fires → the
// next shorter one → 404. Where a prefix row computes a target, the target is
// resolved once more and the final address is sent; where that leads to nothing
// the row does not fire. Without a sitemap every target counts as there, though
// rows of the table that lead on from it are still followed, so that a visitor
// makes one hop.
//
// # Invariants of every edition
//
//   - R1: each address that answered in any edition, and was not released by
//     name, answers: a live page, one
//     redirect, or 410.
//   - R2: a row never hides a live page.
//   - R3: one hop on this site, no chain, no loop.
//   - R4: a target that is a page of the site is kept as the entry.
//
// Plan computes the table of Next from Live, and preserves them.
package redirect

import (
	"errors"
	"fmt"
	"net/url"
	"strings"

	"candlepath/internal/core/address"
)

// Match says which requests a row is for.
type Match string

// The kinds of match.
const (
	Exact  Match = "exact"
	Prefix Match = "prefix"
	Branch Match = "branch"
)

// Status is what Plan says about a row of its result.
type Status string

// The statuses. Rows that are retired or blocked are reports: readers skip them.
const (
	Added     Status = "added"
	Kept      Status = "kept"
	Changed   Status = "changed"
	Retired   Status = "retired"   // given, a page of Next now has the address
	Blocked   Status = "blocked"   // another entry takes the address
	Undecided Status = "undecided" // nobody has said where its visitors belong
	Dangling  Status = "dangling"  // the target is nowhere
)

// IsReport tells whether a row of that status is to be skipped by readers.
func (s Status) IsReport() bool { return s == Retired || s == Blocked }

// IsFinding tells whether a row of that status has to be looked at.
func (s Status) IsFinding() bool { return s == Undecided || s == Blocked || s == Dangling }

// Gone is the code of an address that answers nothing on purpose.
const Gone = 410

// ValidCode tells whether a row may have the code.
func ValidCode(code int) bool {
	switch code {
	case 301, 302, 307, 308, Gone:
		return true
	}
	return false
}

// Target is where a row leads: an entry of the site, an address on it that is
// no page, or a URL elsewhere. The zero Target is that of a row that is gone.
type Target struct {
	Entry   string // id
	Address string // normal
	URL     string
	Suffix  string // "?query#fragment" kept behind an entry or an address
}

// IsZero tells whether the target leads nowhere.
func (t Target) IsZero() bool { return t == Target{} }

// Row is one line of a redirect table.
type Row struct {
	From   string // normal address, with "?" and the sorted query if the query takes part; under a host name if it is for that alone
	To     Target
	Code   int
	Match  Match
	Status Status
	Note   string
	Says   string // what readers are told where it is gone
	Review string // a date on which to look at the decision again
	Origin Origin
	Line   int // in the file it was read from
}

// ErrTable is wrapped by errors that make a table unusable.
var ErrTable = errors.New("unusable redirect table")

// TableError says which row makes a table unusable and why.
type TableError struct {
	Line    int
	From    string
	Problem string
	Advice  string
}

func (e *TableError) Error() string {
	at := e.From
	if e.Line > 0 {
		at = fmt.Sprintf("line %d: %s", e.Line, e.From)
	}
	return at + ": " + e.Problem + "; " + e.Advice
}

// Unwrap makes every TableError an ErrTable.
func (e *TableError) Unwrap() error { return ErrTable }

// ParseTo reads the target of a row as written: a URL, or an address of the
// site. A URL on one of the site's own hosts counts as its path.
func ParseTo(text string, hosts []string) (Target, error) {
	if path, own := address.PathOn(text, hosts); own {
		text = path
	}
	if address.IsURL(text) {
		if _, err := url.Parse(text); err != nil {
			return Target{}, fmt.Errorf("%w: %q is no URL", address.ErrRefused, text)
		}
		return Target{URL: text}, nil
	}
	if !strings.HasPrefix(text, "/") {
		return Target{}, fmt.Errorf("%w: %q begins neither with / nor with https://", address.ErrRefused, text)
	}
	path, query, fragment := address.Split(text)
	normal, err := address.Normal(path)
	if err != nil {
		return Target{}, err
	}
	return Target{Address: normal, Suffix: suffix(query, fragment)}, nil
}

func suffix(query, fragment string) string {
	var s string
	if query != "" {
		s = "?" + query
	}
	if fragment != "" {
		s += "#" + fragment
	}
	return s
}

// WrittenFrom is the from of a row as files and people get it: as a URL where it is under a host
// name.
func WrittenFrom(from string) string {
	if host, rest, named := address.CutHost(from); named {
		return "https://" + host + WrittenFrom(rest)
	}
	path, query, ok := strings.Cut(from, "?")
	if !ok {
		return address.Written(from)
	}
	return address.Written(path) + "?" + query
}

// join makes the code of two hops in one: gone wins, else temporary wins.
func join(first, second int) int {
	switch {
	case first == Gone || second == Gone:
		return Gone
	case temporary(first) || !temporary(second):
		return first
	case first == 308:
		return 307
	}
	return 302
}

func temporary(code int) bool { return code == 302 || code == 307 }

// withQuery appends the query of a request to a location, before a fragment.
func withQuery(location, query string) string {
	if query == "" {
		return location
	}
	location, fragment, has := strings.Cut(location, "#")
	sep := "?"
	if strings.Contains(location, "?") {
		sep = "&"
	}
	location += sep + query
	if has {
		location += "#" + fragment
	}
	return location
}

// joinURL puts the rest of a path behind the path of a URL.
func joinURL(raw, rest string) string {
	if rest == "" {
		return raw
	}
	path, query, fragment := address.Split(raw)
	return strings.TrimSuffix(path, "/") + rest + suffix(query, fragment)
}
