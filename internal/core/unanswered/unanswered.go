// Package unanswered counts addresses that people asked for and that answered nothing, so that
// somebody can lead them on.
//
// Nothing of who asked is kept: of each address only how often it was asked for, on which day,
// and on which page of the site the link stood. What scanners try everywhere is counted as one.
// However many addresses are made up, only so many are kept at a time; the rest is counted, too.
package unanswered

import (
	"strings"
)

// Limits of what is kept.
const (
	MostAtOnce = 2_000  // addresses between two writes, of one instance
	MostKept   = 20_000 // addresses of a site
	MostDay    = 500    // new addresses of a day
	Longest    = 300    // characters of an address
)

// Addresses that stand for many.
const (
	Scanners = "(scanners)" // tries of programs that look for holes
	Others   = "(others)"   // beyond what is kept
)

// probes are parts of addresses that scanners try on every site.
var probes = []string{
	"/wp-", "/wordpress", "/xmlrpc", "/.env", "/.git", "/.aws", "/.ssh", "/.svn", "/cgi-bin", "/phpmyadmin", "/pma/", "/phpinfo", "/vendor/phpunit",
	"/actuator", "/solr/", "/jenkins", "/owa/", "/autodiscover", "/boaform", "/hnap1", "/eval-stdin", "/etc/passwd", ".sql", ".bak", "../",
}

// IsProbe tells whether an address is one that scanners try.
func IsProbe(address string) bool {
	address = strings.ToLower(address)
	for _, p := range probes {
		if strings.Contains(address, p) {
			return true
		}
	}
	return false
}

// MayTell tells whether a reader who finds nothing at an address may tell those who look after
// the site: not of what scanners try, nor of what is too long for an address.
func MayTell(address string) bool { return len(address) <= Longest && !IsProbe(address) }

// Asked is an address that answered nothing.
type Asked struct {
	Address string // normal
	Page    string // address of the page on which the link stood; empty: not known
}

// Count counts what was asked for until it is written down. It is not safe for use by several.
type Count map[Asked]int

// Add counts an address once.
func (c Count) Add(a Asked) {
	switch {
	case IsProbe(a.Address):
		a = Asked{Address: Scanners}
	case len(a.Address) > Longest:
		a = Asked{Address: Others}
	}
	if len(a.Page) > Longest {
		a.Page = ""
	}
	if _, met := c[a]; !met && len(c) >= MostAtOnce {
		a = Asked{Address: Others}
	}
	c[a]++
}

// Merge adds what could not be written down.
func (c Count) Merge(other Count) {
	for a, n := range other {
		if _, met := c[a]; !met && len(c) >= MostAtOnce {
			a = Asked{Address: Others}
		}
		c[a] += n
	}
}
