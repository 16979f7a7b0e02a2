package sitemap

import (
	"net/http"
	"strconv"
	"strings"

	"candlepath/internal/app/plan"
	"candlepath/internal/web/studio/shell"
)

// since tells a window what others did to the plan since it looked.
func (s *Screens) since(r *shell.Request) error {
	version, _ := strconv.ParseInt(r.Query("version"), 10, 64)
	edition, _ := strconv.Atoi(r.Query("edition"))
	since, err := s.App.Since(r.Ctx(), r.Who, edition, version)
	if err != nil {
		return err
	}
	switch {
	case since.Version <= version:
		r.Status(http.StatusNoContent)
		return nil
	case since.All:
		r.JSON(http.StatusOK, actAnswer{Version: since.Version, Reload: true})
		return nil
	}
	a, err := s.actAnswer(r, plan.PlanResult{Patches: since.Patches})
	if err != nil {
		return err
	}
	a.Select, a.Say = "", strings.Join(since.Others, ". ")
	r.JSON(http.StatusOK, a)
	return nil
}
