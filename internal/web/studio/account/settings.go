package account

import (
	"bytes"
	"errors"
	"io"
	"net/http"

	"candlepath/internal/app/account"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/content"
	"candlepath/internal/core/setting"
	"candlepath/internal/files"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

type settingsView struct {
	shell.Frame
	Self, Problem, Said string
	BadPicture          bool
	Groups              []settingGroup
}

type settingGroup struct {
	Name     string
	Settings []settingView
}

// settingView is one setting as it is asked for. Was is what it is now: only what
// differs from it is saved, so that two managers do not undo each other's choices.
type settingView struct {
	ID, Key, Was, Value, Label, Help, Unit string
	Min, Max                               int
	Required, Bad, On                      bool

	IsLine, IsColour, IsSymbol, IsNumber, IsSwitch bool

	Symbols []part.Option
	Picture string // the mark, where it is one
}

// newSettings lays the settings out in groups. given are values that were refused;
// they stand in the form again.
func newSettings(kept, given setting.Values, bad string) (groups []settingGroup) {
	for _, s := range setting.All() {
		if len(groups) == 0 || groups[len(groups)-1].Name != string(s.Group) {
			groups = append(groups, settingGroup{Name: string(s.Group)})
		}
		g := &groups[len(groups)-1]
		g.Settings = append(g.Settings, newSetting(s, kept.Text(s.Key), given, bad))
	}
	return groups
}

func newSetting(s setting.Setting, was string, given setting.Values, bad string) settingView {
	v := settingView{
		ID: "s-" + string(s.Key), Key: string(s.Key), Was: was, Value: was, Label: s.Label, Help: s.Help, Unit: s.Unit, Min: s.Min, Max: s.Max,
		Required: s.Required, Bad: bad == string(s.Key),
		IsLine: s.Kind == setting.Line || s.Kind == setting.Hosts, IsColour: s.Kind == setting.Colour, IsSymbol: s.Kind == setting.Symbol,
		IsNumber: s.Kind == setting.Number, IsSwitch: s.Kind == setting.Switch,
	}
	if typed, ok := given[s.Key]; ok {
		v.Value = typed
	}
	v.On = v.Value == setting.On
	if v.IsSymbol {
		for _, m := range setting.Symbols() {
			v.Symbols = append(v.Symbols, part.Option{Value: m, Label: m, Chosen: m == v.Value})
		}
		if setting.IsPicture(was) {
			v.Picture = was
		}
	}
	return v
}

// settings shows what is chosen for the site.
func (s *Screens) settings(r *shell.Request) error {
	return s.settingsPage(r, http.StatusOK, nil, &plan.Invalid{})
}

func (s *Screens) settingsPage(r *shell.Request, status int, given setting.Values, invalid *plan.Invalid) error {
	f, _, err := s.FrameFor(r, "Site settings")
	if err != nil {
		return err
	}
	v := settingsView{
		Frame: f, Self: urls.Settings, Problem: invalid.Message, BadPicture: invalid.Field == "picture",
		Groups: newSettings(r.Site.Settings, given, invalid.Field),
	}
	if r.Query("saved") != "" && v.Problem == "" {
		v.Said = "Saved. Colleagues see it at once."
	}
	return s.Show(r, status, "settings", v)
}

// saveSettings keeps what was chosen.
func (s *Screens) saveSettings(r *shell.Request) error {
	r.Request.Body = http.MaxBytesReader(r.Writer, r.Request.Body, 4*account.MaxMark)
	picture, err := markFrom(r)
	if err != nil {
		return err
	}
	given := settingsFrom(r)
	err = s.App.SaveSettings(r.Ctx(), r.Who, given, picture)
	if invalid := (*plan.Invalid)(nil); errors.As(err, &invalid) {
		return s.settingsPage(r, http.StatusUnprocessableEntity, given, invalid)
	}
	if err != nil {
		return err
	}
	s.Published(r.Ctx())
	r.Redirect(http.StatusSeeOther, urls.Settings+"?saved=1")
	return nil
}

// settingsFrom reads the settings of a form that differ from what they were when it
// was shown. A switch that is off is not sent; that it was asked for is.
func settingsFrom(r *shell.Request) setting.Values {
	given := setting.Values{}
	for _, s := range setting.All() {
		value, sent := r.GetPostForm(string(s.Key))
		was, asked := r.GetPostForm("was." + string(s.Key))
		if (sent || asked) && (!asked || value != was) {
			given[s.Key] = value
		}
	}
	return given
}

// markFrom reads the picture that is to be the mark; nil if none was chosen.
func markFrom(r *shell.Request) (*content.PictureFile, error) {
	file, head, err := r.Request.FormFile("picture")
	if errors.Is(err, http.ErrMissingFile) || errors.Is(err, http.ErrNotMultipart) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	defer file.Close()
	data, err := io.ReadAll(io.LimitReader(file, account.MaxMark+1))
	if err != nil {
		return nil, err
	}
	picture, err := files.Prepare(head.Filename, bytes.NewReader(data))
	if err != nil {
		return nil, plan.Refuse("picture", part.Sentence(err))
	}
	return &picture, nil
}
