package sitemap

import (
	"net/http"

	"candlepath/internal/core/sitemap"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

type outlineView struct {
	shell.Frame
	planURLs
	At, ImportURL string
	Empty         bool
	Fields        string // as JSON
	Filters       string // as JSON: key and words
}

func (s *Screens) outline(r *shell.Request) error {
	f, next, err := s.FrameFor(r, "Outline")
	if err != nil {
		return err
	}
	return s.Show(r, http.StatusOK, "outline", outlineView{
		Frame: f, planURLs: newPlanURLs(), At: r.Query("at"),
		Empty: next.Trees.Next.Len() == 0, ImportURL: urls.Import, Fields: part.JSON(part.FieldViews()), Filters: part.JSON(filters()),
	})
}

// filters are the key and the words of each filter.
func filters() [][2]string {
	var out [][2]string
	for _, f := range sitemap.Filters() {
		out = append(out, [2]string{f.Key, f.Words})
	}
	return out
}
