package studio

import (
	"net/http"
	"strings"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/address"
	"candlepath/internal/core/match"
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

// find is the type-ahead: entries of Next by title, address or topic; or the page at
// an address of Next or Live.
func (s *Studio) find(r *request) error {
	trees, err := s.app.Planned(r.ctx(), r.who)
	if err != nil {
		return err
	}
	next := trees.Next
	if at := r.Query("at"); at != "" {
		found := []foundView{}
		if i := plan.PageAt(trees, at); i != sitemap.None {
			found = append(found, newFound(next, i))
		}
		r.JSON(http.StatusOK, map[string]any{"found": found})
		return nil
	}
	only := r.Query("only")
	found := match.Find(next, r.Query("q"), 12, func(i int) bool {
		e, served := next.Ref(i), next.Served(i)
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
		out = append(out, newFound(next, i))
	}
	r.JSON(http.StatusOK, map[string]any{"found": out})
	return nil
}

func newFound(t *sitemap.Tree, i int) foundView {
	e, path := t.Ref(i), t.Path(i)
	v := foundView{ID: e.ID, Title: e.Title, Address: address.Written(t.Claim(i)), Kind: e.Kind.Label(), URL: urls.At(e.ID)}
	if len(path) > 1 {
		v.Trail = strings.Join(path[:len(path)-1], " › ")
	}
	return v
}
