package studio

import (
	"errors"
	"io"
	"net/http"
	"strconv"

	"candlepath/internal/app/account"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/content"
	"candlepath/internal/files"
	"candlepath/internal/web/urls"
)

type settingsView struct {
	frame
	Self, Problem, Field, Said string
	Look                       account.Look
	Marks                      []option
	Picture                    string // the mark, where it is one
}

// settings shows how the site is called and looks.
func (s *Studio) settings(r *request) error {
	look := account.Look{Name: r.site.Name, Accent: r.site.Accent, Mark: r.site.Mark, Foot: r.site.Foot, MostClicks: r.site.MostClicks}
	return s.settingsPage(r, http.StatusOK, look, nil)
}

func (s *Studio) settingsPage(r *request, status int, look account.Look, invalid *plan.Invalid) error {
	f, _, err := s.frameFor(r, "Settings", "Site settings", "Site settings")
	if err != nil {
		return err
	}
	v := settingsView{frame: f, Self: urls.Settings, Look: look}
	if invalid != nil {
		v.Problem, v.Field = invalid.Message, invalid.Field
	} else if r.Query("saved") != "" {
		v.Said = "Saved. Colleagues see it at once."
	}
	if account.MarkIsPicture(r.site.Mark) {
		v.Picture = r.site.Mark
	}
	for _, m := range account.Marks() {
		v.Marks = append(v.Marks, option{m, m, m == look.Mark})
	}
	return s.show(r, status, "settings", v)
}

// saveSettings keeps them.
func (s *Studio) saveSettings(r *request) error {
	r.Request.Body = http.MaxBytesReader(r.Writer, r.Request.Body, 4*account.MaxMark)
	picture, err := markFrom(r)
	if err != nil {
		return err
	}
	look := account.Look{Name: r.PostForm("name"), Accent: r.PostForm("accent"), Mark: r.PostForm("mark"), Foot: r.PostForm("foot"), MostClicks: r.site.MostClicks}
	if n := r.PostForm("clicks"); n != "" {
		look.MostClicks, _ = strconv.Atoi(n)
	}
	err = s.app.SaveSettings(r.ctx(), r.who, look, picture)
	if invalid := (*plan.Invalid)(nil); errors.As(err, &invalid) {
		return s.settingsPage(r, http.StatusUnprocessableEntity, look, invalid)
	}
	if err != nil {
		return err
	}
	s.published(r.ctx())
	r.Redirect(http.StatusSeeOther, urls.Settings+"?saved=1")
	return nil
}

// markFrom reads the picture that is to be the mark; nil if none was chosen.
func markFrom(r *request) (*content.Picture, error) {
	file, head, err := r.Request.FormFile("picture")
	if errors.Is(err, http.ErrMissingFile) || errors.Is(err, http.ErrNotMultipart) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	defer file.Close()
	data, err := io.ReadAll(io.LimitReader(file, account.MaxMark+1))
	return &content.Picture{Name: head.Filename, Type: files.PictureType(data), Data: data}, err
}
