package reader

import (
	"net"
	"net/http"
	"slices"
	"strings"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/address"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/setting"
	"candlepath/internal/web/urls"
)

// oldHosts are the names under which the site is asked for that are not its own any more. A
// site that does not know its own name has none.
func oldHosts(s plan.Site) map[string]bool {
	if len(s.Hosts) == 0 {
		return nil
	}
	out := map[string]bool{}
	for host := range strings.FieldsSeq(s.Settings.Text(setting.OldHosts)) {
		if !slices.ContainsFunc(s.Hosts, func(own string) bool { return strings.EqualFold(own, host) }) {
			out[host] = true
		}
	}
	return out
}

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
	if !snap.old[host] {
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
