package redirect

import (
	"slices"
	"strings"
	"unicode"

	"candlepath/internal/core/address"
	"candlepath/internal/core/sitemap"
)

// from reads the address that is to be redirected.
func (j *judge) from(w Wish, match Match) (string, error) {
	text := strings.TrimSpace(w.From)
	switch {
	case text == "":
		return "", refuse("The old address is missing.")
	case strings.ContainsFunc(text, unicode.IsControl):
		return "", refuse("The old address has a line break or another character that no address has.")
	}
	name, text, err := j.underName(w, text, match)
	if err != nil {
		return "", err
	}
	if !strings.HasPrefix(text, "/") {
		return "", refuse("The old address has to begin with a slash, like /tea/menu.")
	}
	path, query, fragment := address.Split(text)
	normal, err := address.Normal(path)
	switch {
	case err != nil:
		return "", refuse("%q is no address: %v.", text, unwrapped(err))
	case fragment != "":
		return "", refuse("What follows # never reaches the site. Leave it out.")
	case normal == "/" && query == "" && (name.host == "" || match != Exact):
		return "", refuse("The home page is at /. It is always there, and nothing covers the whole site.")
	case address.Reserved(normal):
		return "", refuse("The program itself answers at %s.", address.Written(normal))
	case query != "" && match != Exact:
		return "", refuse("Only an exact redirect can tell addresses apart by what follows the question mark.")
	}
	from := normal
	if query != "" {
		from += "?" + address.SortQuery(query)
	}
	page := sitemap.None
	if query == "" && match == Exact {
		page = j.Next.PageAt(normal)
	}
	if name.host != "" && (name.alone || page != sitemap.None || j.knows(name.host, from, match) || j.ofAnother(w, from, match)) {
		return address.OnHost(name.host, from), nil
	}
	if page != sitemap.None {
		return "", refuse("%q is at this address. Move or remove the page first; its redirect then follows.", j.Next.Ref(page).Title)
	}
	return from, nil
}

// name is an old host name under which an address is asked for.
type name struct {
	host  string // empty: any
	alone bool   // it is wanted for that name alone; else only where other names answer something else
}

// underName tells the host name of an old address from the rest of it. A URL on a name of the
// site is an address of the site; two slashes before an old name mean that name alone.
func (j *judge) underName(w Wish, text string, match Match) (name, string, error) {
	alone := strings.HasPrefix(text, "//")
	url := text
	if alone {
		url = "https:" + text
	}
	host, rest, named := address.HostOf(url)
	fold := func(h string) bool { return strings.EqualFold(h, host) }
	at, err := address.Options{}.Key(rest)
	old := named && (slices.ContainsFunc(j.OldHosts, fold) || host == w.Host || err == nil && j.knows(host, at, match))
	switch {
	case old:
		return name{host, alone}, rest, nil
	case alone: // two slashes by mistake
		return name{host: w.Host}, text, nil
	case !named && address.IsURL(text):
		return name{}, "", refuse("%q is no address of a page.", text)
	case !named:
		return name{host: w.Host}, text, nil
	case slices.ContainsFunc(j.Hosts, fold):
		return name{}, rest, nil
	}
	if path, own := address.PathOn(url, j.Hosts); own { // with a port
		return name{}, path, nil
	}
	return name{}, "", refuse("%s is on a host that does not point here. Add the host in the site settings, or write the address without it.", text)
}

// knows tells whether there is a row for a host name alone.
func (j *judge) knows(host, from string, match Match) bool {
	return j.rows[Key{From: address.OnHost(host, from), Spread: match != Exact}] != nil
}

// ofAnother tells whether an address of an older site is one of another older site, too, and was
// decided for that.
func (j *judge) ofAnother(w Wish, from string, match Match) bool {
	was := j.rows[Key{From: from, Spread: match != Exact}]
	return was != nil && w.Origin == FromOlder && was.Origin == FromOlder && was.Note != oneLine(w.Note)
}
