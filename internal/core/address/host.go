package address

import (
	"net/url"
	"strings"
)

// An address under one host name alone has the name before it, behind two slashes, which no other
// address begins with: //staff.quillmere.example/contact. Names are lower case and without a port.

// OnHost gives an address under a host name; the address itself where that is not known.
func OnHost(host, normal string) string {
	if host == "" {
		return normal
	}
	return "//" + host + normal
}

// CutHost gives the host name and the rest of an address under a host name, and whether it is one.
func CutHost(at string) (host, rest string, ok bool) {
	name, ok := strings.CutPrefix(at, "//")
	if !ok {
		return "", at, false
	}
	i := strings.IndexByte(name, '/')
	if i <= 0 {
		return "", at, false
	}
	return name[:i], name[i:], true
}

// HostOf gives the host name of a URL that a browser asks for and the path, query and fragment
// behind it, and whether it is such a URL.
func HostOf(rawURL string) (host, rest string, ok bool) {
	if scheme, _, _ := strings.Cut(rawURL, "://"); !strings.EqualFold(scheme, "http") && !strings.EqualFold(scheme, "https") {
		return "", "", false
	}
	u, err := url.Parse(rawURL)
	if err != nil || u.Hostname() == "" || strings.ContainsAny(u.Hostname(), "/?#") {
		return "", "", false
	}
	rest, _ = PathOn(rawURL, []string{u.Host})
	return strings.ToLower(u.Hostname()), rest, true
}
