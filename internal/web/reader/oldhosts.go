package reader

import (
	"net"
	"net/http"
	"slices"
	"strings"

	"candlepath/internal/core/address"
	"candlepath/internal/core/redirect"
	"candlepath/internal/web/urls"
)

// oldHost gives the old name under which a visitor asks; empty where it is the site's own.
func (v *view) oldHost(r *http.Request) string {
	if len(v.old) == 0 {
		return ""
	}
	host := strings.ToLower(r.Host)
	if name, _, err := net.SplitHostPort(host); err == nil {
		host = name
	}
	if !slices.Contains(v.old, host) {
		return ""
	}
	return host
}

// onOldHost leads a visitor who asks under an old name to the site's own, in one hop: to the
// page of the address, or where its redirect leads. It tells whether it did.
func onOldHost(w http.ResponseWriter, r *http.Request, snap *view, normal string, a redirect.Answer) bool {
	base := urls.Scheme(r) + "://" + snap.Site.Hosts[0]
	switch {
	case a.By == redirect.ByPage:
		moved(w, base+withQuery(address.Written(normal), r.URL.RawQuery), http.StatusMovedPermanently)
	case strings.HasPrefix(a.Location, "/"):
		moved(w, base+a.Location, a.Code)
	default:
		return false
	}
	return true
}
