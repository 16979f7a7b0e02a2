package editions

import (
	"errors"
	"net/http"
	"slices"
	"strings"

	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/change"
	"candlepath/internal/web/render"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

// choiceForm reads what somebody ticked, unticked and wrote of the next edition;
// nil where a form says nothing of it.
func choiceForm(r *shell.Request) *editions.ChoiceForm {
	if err := r.Request.ParseForm(); err != nil || !r.Request.PostForm.Has("looked") {
		return nil
	}
	f := editions.ChoiceForm{Reviewed: change.ParseReviewed(r.PostForm("looked")), Why: r.PostForm("why"), Note: r.PostForm("note"), Filter: r.PostForm("show")}
	in := r.PostFormArray("in")
	for _, was := range r.PostFormArray("was") { // a box that was shown: + ticked, - not
		if was == "" {
			continue
		}
		k := parseKeys([]string{was[1:]})
		f.Listed = append(f.Listed, k...)
		switch now := slices.Contains(in, was[1:]); {
		case now && was[0] != '+':
			f.On = append(f.On, k...)
		case !now && was[0] == '+':
			f.Off = append(f.Off, k...)
		}
	}
	if was, now := r.PostForm("rest-was"), r.PostForm("rest") != ""; was != "" && now != (was == "+") {
		f.Rest = map[bool]change.Wholesale{true: change.In, false: change.Out}[now]
	}
	switch r.PostForm("do") {
	case "every-in":
		f.Every = change.In
	case "every-out":
		f.Every = change.Out
	}
	return &f
}

// choose keeps a choice, and shows the next edition by it.
func (s *Screens) choose(r *shell.Request) error {
	form := choiceForm(r)
	if form == nil {
		return plan.Refuse("", "The form could not be read. Reload the page.")
	}
	if r.Query("only") == "why" {
		err := s.App.KeepChoice(r.Ctx(), r.Who, *form)
		r.Status(http.StatusNoContent)
		return err
	}
	if r.PostForm("do") == "no-errors" {
		return s.withChoice(r, "#publish", func() error {
			_, err := s.App.DeselectErrors(r.Ctx(), r.Who)
			return err
		})
	}
	return s.editionPage(r, http.StatusOK, form, "")
}

// back shows the next edition after an act on it: as a piece of the page, or by
// way of a redirect.
func (s *Screens) backToEdition(r *shell.Request, at string) error {
	if render.Fragment(r.Request) {
		return s.editionPage(r, http.StatusOK, nil, "")
	}
	r.Redirect(http.StatusSeeOther, urls.Edition+at)
	return nil
}

// withChoice does an act on the next edition after keeping what stands in the
// form beside it.
func (s *Screens) withChoice(r *shell.Request, at string, act func() error) error {
	if form := choiceForm(r); form != nil {
		if err := s.App.KeepChoice(r.Ctx(), r.Who, *form); err != nil {
			return err
		}
	}
	err := act()
	if invalid := (*plan.Invalid)(nil); errors.As(err, &invalid) {
		return s.editionPage(r, http.StatusUnprocessableEntity, nil, invalid.Message)
	}
	if err != nil {
		return err
	}
	return s.backToEdition(r, at)
}

// keyName and parseKeys carry changes through a form.
func keyName(k change.Key) string { return string(k.Aspect) + " " + k.ID }

func parseKeys(names []string) []change.Key {
	var out []change.Key
	for _, n := range names {
		if aspect, id, ok := strings.Cut(n, " "); ok {
			out = append(out, change.Key{ID: id, Aspect: change.Aspect(aspect)})
		}
	}
	return out
}
