package sitemap

import (
	"net/http"

	"candlepath/internal/core/drawing"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

type mapView struct {
	shell.Frame
	planURLs
	DrawingURL, PictureURL string
	Empty                  bool
	Directions, Overlays   []part.Option
	At, Level, Flip        string
	OutlineURL             string
}

// planURLs are the addresses that scripts act on Next with.
type planURLs struct {
	RowsURL, ViewsURL, ChecksURL, ActURL, UndoURL, RedoURL, BesideURL, FindAt, PagesURL, SinceURL string
}

func newPlanURLs() planURLs {
	return planURLs{
		RowsURL: urls.Rows, ViewsURL: urls.Views, ChecksURL: urls.Checks, ActURL: urls.Act, UndoURL: urls.Undo, RedoURL: urls.Redo,
		BesideURL: urls.BesideOf, FindAt: urls.Find, PagesURL: urls.Pages, SinceURL: urls.Since,
	}
}

func (s *Screens) drawnMap(r *shell.Request) error {
	f, next, err := s.FrameFor(r, "Map")
	if err != nil {
		return err
	}
	ask := drawAsk(r)
	v := mapView{
		Frame: f, planURLs: newPlanURLs(), DrawingURL: urls.Drawing, PictureURL: urls.Picture, OutlineURL: urls.Outline,
		Empty: next.Trees.Next.Len() == 0, At: ask.At, Level: r.Query("level"), Flip: r.Query("flip"),
	}
	for _, d := range drawing.Directions() {
		v.Directions = append(v.Directions, part.Option{Value: string(d), Label: d.Label(), Chosen: d == ask.Direction})
	}
	for _, o := range drawing.Overlays() {
		v.Overlays = append(v.Overlays, part.Option{Value: string(o), Label: o.Label(), Chosen: o == ask.Overlay})
	}
	return s.Show(r, http.StatusOK, "map", v)
}
