package sitemap

import (
	"net/http"

	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

type outlineView struct {
	shell.Frame
	planURLs
	At, BringIn string
	Empty       bool
}

func (s *Screens) outline(r *shell.Request) error {
	f, next, err := s.FrameFor(r, "Sitemap", "Outline", "Outline")
	if err != nil {
		return err
	}
	return s.Show(r, http.StatusOK, "outline", outlineView{
		Frame: f, planURLs: newPlanURLs(), At: r.Query("at"),
		Empty: next.Trees.Next.Len() == 0, BringIn: urls.BringIn,
	})
}
