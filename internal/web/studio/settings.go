package studio

import (
	"errors"
	"net/http"

	"candlepath/internal/app"
	"candlepath/internal/app/port"
	"candlepath/internal/web/urls"
)

type settingsView struct {
	frame
	Self, Problem, Field, Said string
	Look                       port.Look
	Marks                      []option
}

// settings shows how the site is called and looks.
func (s *Studio) settings(r *request) error {
	look := port.Look{Name: r.site.Name, Accent: r.site.Accent, Mark: r.site.Mark, Foot: r.site.Foot}
	return s.settingsPage(r, http.StatusOK, look, nil)
}

func (s *Studio) settingsPage(r *request, status int, look port.Look, invalid *app.Invalid) error {
	f, _, err := s.frameFor(r, "", "", "Site settings")
	if err != nil {
		return err
	}
	v := settingsView{frame: f, Self: urls.Settings, Look: look}
	if invalid != nil {
		v.Problem, v.Field = invalid.Message, invalid.Field
	} else if r.Query("saved") != "" {
		v.Said = "Saved. Colleagues see it at once."
	}
	for _, m := range app.Marks() {
		v.Marks = append(v.Marks, option{m, m, m == look.Mark})
	}
	return s.show(r, status, "settings", v)
}

// saveSettings keeps them.
func (s *Studio) saveSettings(r *request) error {
	look := port.Look{Name: r.PostForm("name"), Accent: r.PostForm("accent"), Mark: r.PostForm("mark"), Foot: r.PostForm("foot")}
	err := s.app.SaveSettings(r.ctx(), r.who, look)
	if invalid := (*app.Invalid)(nil); errors.As(err, &invalid) {
		return s.settingsPage(r, http.StatusUnprocessableEntity, look, invalid)
	}
	if err != nil {
		return err
	}
	s.published(r.ctx())
	r.Redirect(http.StatusSeeOther, urls.Settings+"?saved=1")
	return nil
}
