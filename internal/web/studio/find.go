package studio

import (
	"net/http"
	"slices"
	"strings"

	"candlepath/internal/core/address"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/web/urls"
)

type foundView struct {
	ID      string `json:"id"`
	Title   string `json:"title"`
	Address string `json:"address"`
	Trail   string `json:"trail"`
	Kind    string `json:"kind"`
	URL     string `json:"url"`
}

// find is the type-ahead: entries of Next by title, address or topic.
func (s *Studio) find(r *request) error {
	o, err := s.app.Outline(r.ctx())
	if err != nil {
		return err
	}
	only := r.Query("only")
	found := findEntries(o.Trees.Next, r.Query("q"), 12, func(e *sitemap.Entry, served string) bool {
		switch only {
		case "page":
			return served != "" && e.ID != r.Query("not")
		case "holder":
			return e.Kind.HoldsChildren()
		}
		return true
	})
	out := []foundView{}
	for _, i := range found {
		e := o.Trees.Next.Ref(i)
		path := o.Trees.Next.Path(i)
		v := foundView{ID: e.ID, Title: e.Title, Address: address.Written(o.Trees.Next.Claim(i)), Kind: e.Kind.Label(), URL: urls.At(e.ID)}
		if len(path) > 1 {
			v.Trail = strings.Join(path[:len(path)-1], " › ")
		}
		out = append(out, v)
	}
	r.JSON(http.StatusOK, map[string]any{"found": out})
	return nil
}

// findEntries ranks: title begins with the words, then a word of the title
// does, then address or topics hold them.
func findEntries(t *sitemap.Tree, q string, n int, fits func(*sitemap.Entry, string) bool) []int {
	q = strings.ToLower(strings.TrimSpace(q))
	var ranked [4][]int
	for i := range t.Len() {
		e := t.Ref(i)
		if !fits(e, t.Served(i)) {
			continue
		}
		title := strings.ToLower(e.Title)
		switch {
		case q == "" || strings.HasPrefix(title, q):
			ranked[0] = append(ranked[0], i)
		case strings.Contains(title, " "+q):
			ranked[1] = append(ranked[1], i)
		case strings.Contains(title, q) || strings.Contains(t.Claim(i), q):
			ranked[2] = append(ranked[2], i)
		case strings.Contains(strings.ToLower(e.Topics), q):
			ranked[3] = append(ranked[3], i)
		}
		if len(ranked[0]) >= n {
			break
		}
	}
	all := slices.Concat(ranked[:]...)
	return all[:min(n, len(all))]
}
