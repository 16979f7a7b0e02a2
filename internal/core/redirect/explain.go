package redirect

import (
	"fmt"
	"strings"

	"candlepath/internal/core/address"
	"candlepath/internal/core/sitemap"
)

// Step is one step of the reasoning that leads to an answer.
type Step struct {
	Said string // a sentence
	Row  *Row   // the row that it is about
	Ends bool   // the answer was found here
}

// Explain answers an address as Resolve does, and tells each step on the way.
func (t *Table) Explain(request string) (Answer, []Step) {
	normal, query, err := t.asked(request)
	if err != nil {
		return notFound(), []Step{{Said: fmt.Sprintf("%q is no address: %s.", request, unwrapped(err)), Ends: true}}
	}
	e := explainer{t: t, normal: normal, query: query}
	path, _, _ := address.Split(request)
	if host, rest, named := address.CutHost(normal); named {
		if a := t.rowAnswer(normal, query); a.row >= 0 {
			e.say(&t.rows[a.row], true, "A redirect for %s alone answers it, before the pages of the site.", host)
			return a, e.out
		}
		e.say(nil, false, "No redirect is for %s alone.", host)
		if _, path, _ = address.HostOf(request); path != "" {
			path, _, _ = address.Split(path)
		}
		e.normal = rest
	}
	e.run(path)
	return t.ResolveNormal(normal, query), e.out
}

// Asked is the path of an address as people write it: with the host of the site, or without
// the first slash. Under another host name it stays a URL.
func Asked(text string, own []string) string {
	if path, is := address.PathOn(text, own); is {
		return path
	}
	if !strings.HasPrefix(text, "/") && !address.IsURL(text) {
		return "/" + text
	}
	return text
}

type explainer struct {
	t             *Table
	normal, query string
	out           []Step
}

func (e *explainer) say(r *Row, ends bool, format string, args ...any) {
	e.out = append(e.out, Step{fmt.Sprintf(format, args...), r, ends})
}

func (e *explainer) run(path string) {
	t, at := e.t, address.Written(e.normal)
	if path != e.normal && path != at {
		e.say(nil, false, "It is the same as %s in its normal form.", at)
	}
	if p := t.page(e.normal); p != sitemap.None {
		e.say(nil, true, "%q is at this address. A page comes before redirects.", t.pages.Ref(p).Title)
		return
	}
	e.say(nil, false, "No page is at this address.")
	if e.query != "" && t.hasQuery {
		if i, ok := t.exact[e.normal+"?"+address.SortQuery(e.query)]; ok {
			e.say(&t.rows[i], true, "An exact redirect names it with what follows the question mark.")
			return
		}
		e.say(nil, false, "No exact redirect names it with what follows the question mark.")
	}
	if i, ok := t.exact[e.normal]; ok {
		e.say(&t.rows[i], true, "An exact redirect names it.")
		return
	}
	e.say(nil, false, "No exact redirect names it.")
	e.spread()
}

// spread tells of the prefix and branch rows above, the longest first.
func (e *explainer) spread() {
	t := e.t
	for base, more := e.normal, len(t.spread) > 0; more; base, more = up(base) {
		i, ok := t.spread[base]
		if !ok {
			continue
		}
		r := &t.rows[i]
		if r.Match == Branch || r.Code == Gone {
			e.say(r, true, "Everything at and below %s is led to one place.", address.Written(base))
			return
		}
		rest, _ := address.Below(base, e.normal)
		to, _, fires := t.fire(int(i), rest)
		if fires {
			e.say(r, true, "The prefix %s carries the rest of the path, %s, over to where it leads.", address.Written(base), orItself(rest))
			return
		}
		e.say(r, false, "The prefix %s would carry it over to %s, but no page is there, so it does not act.", address.Written(base), address.Written(to.Address))
	}
	e.say(nil, true, "Nothing else answers it: not found.")
}

func orItself(rest string) string {
	if rest == "" {
		return "none"
	}
	return address.Written(rest)
}
