package sheet

import (
	"fmt"
	"strings"

	"candlepath/internal/core/address"
	"candlepath/internal/core/check"
	"candlepath/internal/core/sitemap"
)

// ReadAddresses makes a sitemap of a bare list of addresses, such as a
// sitemaps.org file: every address lies below the nearest listed one above it.
func ReadAddresses(addresses []string) (*Sheet, error) {
	r := &reader{tempOf: map[string]string{}}
	at := map[string]int{}
	for i, a := range addresses {
		n, err := address.Normal(a)
		if err == nil && (len(n) > maxAddress || strings.Count(n, "/") > sitemap.MaxLevels) {
			err = fmt.Errorf("it is longer than %d characters or %d segments", maxAddress, sitemap.MaxLevels)
		}
		if err != nil {
			a = a[:min(len(a), maxAddress)]
			r.find(i+1, check.Error, "bad-address", "", a, "This is not an address: "+err.Error())
			continue
		}
		if _, twice := at[n]; twice {
			r.find(i+1, check.Warning, "listed-twice", "", n, "This address is listed twice; the first is used.")
			continue
		}
		at[n] = len(r.rows)
		r.rows = append(r.rows, row{line: i + 1, addr: n, entry: sitemap.Entry{ID: tempID(len(r.rows)), Kind: sitemap.Page, Title: titleOf(n)}})
	}
	for i := range r.rows {
		for up := parentPath(r.rows[i].addr); up != "/" && up != ""; up = parentPath(up) {
			if p, ok := at[up]; ok {
				r.rows[i].entry.Parent = r.rows[p].entry.ID
				break
			}
		}
	}
	return r.finish()
}

func parentPath(a string) string { return a[:max(strings.LastIndexByte(a, '/'), 0)] }

// titleOf words the last segment of an address.
func titleOf(a string) string {
	seg := a[strings.LastIndexByte(a, '/')+1:]
	if seg == "" {
		return "Home"
	}
	words := strings.Join(strings.FieldsFunc(seg, func(r rune) bool { return r == '-' || r == '_' }), " ")
	if words == "" {
		return seg
	}
	return strings.ToUpper(words[:1]) + words[1:]
}
