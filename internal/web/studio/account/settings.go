package account

import (
	"errors"
	"io"
	"net/http"
	"strconv"

	"candlepath/internal/app/account"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/content"
	"candlepath/internal/files"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

type settingsView struct {
	shell.Frame
	Self, Problem, Field, Said string
	Look                       account.Branding
	Marks                      []part.Option
	Picture                    string // the mark, where it is one
}

// settings shows how the site is called and looks.
func (s *Screens) settings(r *shell.Request) error {
	look := account.Branding{Name: r.Site.Name, Accent: r.Site.Accent, Mark: r.Site.Mark, Foot: r.Site.Foot, MostClicks: r.Site.MostClicks}
	return s.settingsPage(r, http.StatusOK, look, nil)
}

func (s *Screens) settingsPage(r *shell.Request, status int, look account.Branding, invalid *plan.Invalid) error {
	f, _, err := s.FrameFor(r, "Site settings")
	if err != nil {
		return err
	}
	v := settingsView{Frame: f, Self: urls.Settings, Look: look}
	if invalid != nil {
		v.Problem, v.Field = invalid.Message, invalid.Field
	} else if r.Query("saved") != "" {
		v.Said = "Saved. Colleagues see it at once."
	}
	if account.MarkIsPicture(r.Site.Mark) {
		v.Picture = r.Site.Mark
	}
	for _, m := range account.Marks() {
		v.Marks = append(v.Marks, part.Option{Value: m, Label: m, Chosen: m == look.Mark})
	}
	return s.Show(r, status, "settings", v)
}

// saveSettings keeps them.
func (s *Screens) saveSettings(r *shell.Request) error {
	r.Request.Body = http.MaxBytesReader(r.Writer, r.Request.Body, 4*account.MaxMark)
	picture, err := markFrom(r)
	if err != nil {
		return err
	}
	look := account.Branding{Name: r.PostForm("name"), Accent: r.PostForm("accent"), Mark: r.PostForm("mark"), Foot: r.PostForm("foot"), MostClicks: r.Site.MostClicks}
	if n := r.PostForm("clicks"); n != "" {
		look.MostClicks, _ = strconv.Atoi(n)
	}
	err = s.App.SaveSettings(r.Ctx(), r.Who, look, picture)
	if invalid := (*plan.Invalid)(nil); errors.As(err, &invalid) {
		return s.settingsPage(r, http.StatusUnprocessableEntity, look, invalid)
	}
	if err != nil {
		return err
	}
	s.Published(r.Ctx())
	r.Redirect(http.StatusSeeOther, urls.Settings+"?saved=1")
	return nil
}

// markFrom reads the picture that is to be the mark; nil if none was chosen.
func markFrom(r *shell.Request) (*content.Picture, error) {
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
