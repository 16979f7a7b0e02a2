// Package oldhost answers a host that a site had once, from a redirect table alone: what the
// table names is led on, everything else is not found. It needs no database.
package oldhost

import (
	"fmt"
	"net/http"
	"strings"

	"candlepath/internal/core/address"
	"candlepath/internal/core/redirect"
)

// Handler answers requests from a table. Targets on the site get base, such as
// https://inside.quillmere.example, put before them.
func Handler(table *redirect.Table, base string) http.Handler {
	base = strings.TrimSuffix(base, "/")
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		h := w.Header()
		h.Set("Cache-Control", "no-cache")
		h.Set("X-Content-Type-Options", "nosniff")
		asked := address.PathOf(r.URL)
		if r.URL.RawQuery != "" {
			asked += "?" + r.URL.RawQuery
		}
		a := table.ResolveUnder(r.Host, asked)
		switch {
		case a.Location != "":
			to := a.Location
			if strings.HasPrefix(to, "/") {
				to = base + to
			}
			h.Set("Location", to)
			w.WriteHeader(a.Code)
		case a.Code == redirect.Gone:
			text(w, r, a.Code, "This page is gone.", base)
		default:
			text(w, r, http.StatusNotFound, "There is no page at this address.", base)
		}
	})
}

func text(w http.ResponseWriter, r *http.Request, code int, words, base string) {
	w.Header().Set("Content-Type", "text/plain; charset=utf-8")
	w.WriteHeader(code)
	if r.Method == http.MethodHead {
		return
	}
	if base != "" {
		words += " The site is at " + base + "/ now."
	}
	_, _ = fmt.Fprintln(w, words)
}
