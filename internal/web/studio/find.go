package studio

import (
	"net/http"
	"strings"

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

// find is the type-ahead: entries of Next by title, address or topic.
func (s *Studio) find(r *request) error {
	next, _, err := s.app.TakeOut(r.ctx(), r.who, false)
	if err != nil {
		return err
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
