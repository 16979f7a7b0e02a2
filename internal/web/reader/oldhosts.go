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

// onOldHost leads a visitor who asks under an old name to the site's own, in one hop: to the
// page of the address, or where its redirect leads. It tells whether it did.
func onOldHost(w http.ResponseWriter, r *http.Request, snap *view, normal string, a redirect.Answer) bool {
	if len(snap.old) == 0 {
		return false
	}
	host := strings.ToLower(r.Host)
	if name, _, err := net.SplitHostPort(host); err == nil {
		host = name
	}
	if !slices.Contains(snap.old, host) {
		return false
	}
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
