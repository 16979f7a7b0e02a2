package sitemap

import (
	"net/http"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/match"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
)

// find is the type-ahead: entries of Next by title, address or topic; or the page at
// an address of Next or Live.
func (s *Screens) find(r *shell.Request) error {
	trees, err := s.App.Planned(r.Ctx(), r.Who)
	if err != nil {
		return err
	}
	next := trees.Next
	if at := r.Query("at"); at != "" {
		found := []part.FoundView{}
		if i := plan.PageAt(trees, at); i != sitemap.None {
			found = append(found, part.NewFound(next, i))
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
	out := []part.FoundView{}
	for _, i := range found {
		out = append(out, part.NewFound(next, i))
	}
	r.JSON(http.StatusOK, map[string]any{"found": out})
	return nil
}
