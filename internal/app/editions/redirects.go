package editions

import (
	"fmt"

	"candlepath/internal/core/change"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
)

func redirectKey(r redirect.Row) change.Key {
	return change.Key{ID: r.Key().ID(), Aspect: change.Redirect}
}

// redirectChanges are the redirects planned by hand as changes of the next edition.
func (n *NextEdition) redirectChanges() []change.Change {
	out := make([]change.Change, len(n.redirects))
	for i, r := range n.redirects {
		out[i] = change.Change{Key: redirectKey(r.Row), Because: r.Words(n.Trees.Next)}
	}
	return out
}

// chosenRedirects are the rows of those that go out.
func (n *NextEdition) chosenRedirects() (rows []redirect.Row) {
	for _, r := range n.redirects {
		if n.Chosen[redirectKey(r.Row)] {
			rows = append(rows, r.Row)
		}
	}
	return rows
}

// redirectNeeds are the new pages to which chosen redirects lead, where those are not chosen.
func (n *NextEdition) redirectNeeds() (out []change.Dependency) {
	if len(n.redirects) == 0 {
		return nil
	}
	asked := map[change.Key]bool{}
	for _, r := range n.chosenRedirects() {
		page := change.Key{ID: r.To.Entry, Aspect: change.Added}
		if r.To.Entry == "" || n.Trees.Live.Find(r.To.Entry) != sitemap.None || n.Trees.Next.Find(r.To.Entry) == sitemap.None || n.Chosen[page] || asked[page] {
			continue
		}
		asked[page] = true
		out = append(out, change.Dependency{Key: page, Needs: redirectKey(r), Why: fmt.Sprintf("the redirect from %s points to it", r.Key().Title())})
	}
	return out
}

// redirectsLeft are the planned redirects that do not go out.
func (n *NextEdition) redirectsLeft() (out []change.Change) {
	for _, c := range n.redirectChanges() {
		if !n.Chosen[c.Key] {
			out = append(out, c)
		}
	}
	return out
}
