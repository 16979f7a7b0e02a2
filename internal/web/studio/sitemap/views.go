package sitemap

import (
	"context"
	"net/http"

	"candlepath/internal/app/plan"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/web/studio/shell"
)

func (s *Screens) saveView(r *shell.Request) error { return s.changeViews(r, s.App.SaveView) }

func (s *Screens) dropView(r *shell.Request) error { return s.changeViews(r, s.App.DropView) }

func (s *Screens) changeViews(r *shell.Request, change func(context.Context, plan.Person, appsitemap.SavedView) ([]appsitemap.SavedView, error)) error {
	var v appsitemap.SavedView
	if err := r.Json(&v); err != nil {
		return err
	}
	views, err := change(r.Ctx(), r.Who, v)
	if err != nil {
		return err
	}
	r.JSON(http.StatusOK, map[string]any{"views": views})
	return nil
}
