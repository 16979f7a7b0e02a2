package sitemap

import (
	"net/http"
	"slices"
	"strings"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/match"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
)

// find is the type-ahead: entries of Next by title, address or topic; or the page at
// an address of Next or Live.
const mostFound = 12

// chosenLast gives those of the entries that a browser chose last which are still there.
func chosenLast(t *sitemap.Tree, ids string, fits func(int) bool) (found []int) {
	for id := range strings.SplitSeq(ids, ",") {
		if i := t.Find(id); i != sitemap.None && fits(i) && len(found) < mostFound {
			found = append(found, i)
		}
	}
	return found
}

func (s *Screens) find(r *shell.Request) error {
	trees, _, err := s.App.Planned(r.Ctx(), r.Who)
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
	fits := func(i int) bool {
		e, served := next.Ref(i), next.Served(i)
		switch only {
		case "page":
			return served != "" && e.ID != r.Query("not")
		case "holder":
			return e.Kind.HoldsChildren()
		}
		return true
	}
	found := match.Find(next, r.Query("q"), mostFound, fits)
	if last := chosenLast(next, r.Query("recent"), fits); r.Query("q") == "" && len(last) > 0 {
		others := slices.DeleteFunc(found, func(i int) bool { return slices.Contains(last, i) })
		found = append(last, others...)[:min(len(last)+len(others), mostFound)]
	}
	out := []part.FoundView{}
	for _, i := range found {
		out = append(out, part.NewFound(next, i))
	}
	r.JSON(http.StatusOK, map[string]any{"found": out})
	return nil
}
