package preflight

import (
	"candlepath/internal/core/change"
	"candlepath/internal/core/check"
)

// Waiting is how much waits at each stop of the path: planned changes of the
// sitemap, changed menus and trails, edited pages and templates, redirects and addresses that need a decision,
// and errors that stop the edition.
type Waiting struct{ Sitemap, Navigation, Pages, Addresses, Editions int }

// WaitingIn counts what waits in planned changes and what preflight found in them.
func WaitingIn(changes []change.Change, found []check.Finding) Waiting {
	var w Waiting
	for _, c := range changes {
		switch c.Aspect {
		case change.Content, change.Layout:
			w.Pages++
		case change.Menu, change.Trail:
			w.Navigation++
		case change.Released, change.Redirect:
			w.Addresses++
		case change.Readdressed: // no change of its own
		default:
			w.Sitemap++
		}
	}
	for _, f := range found {
		if f.Rule == UndecidedPage {
			w.Addresses++
		}
	}
	w.Editions, _ = check.Count(found)
	return w
}
