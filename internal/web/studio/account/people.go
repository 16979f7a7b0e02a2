package account

import (
	"errors"
	"net/http"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/workflow"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

type peopleView struct {
	shell.Frame
	Self, Problem, Field string
	Name, Login          string // of somebody who could not be added
	Roles                []part.Option
	Rows                 []personView
	Link                 *linkForView
}

type personView struct {
	Name, Login, Role, URL, PasswordURL string
	Roles                               []part.Option
	Inactive, Self, NoPassword          bool
}

// linkForView is a link that is shown once.
type linkForView struct{ Name, URL string }

func (s *Screens) people(r *shell.Request) error { return s.peoplePage(r, http.StatusOK, peopleView{}) }

func (s *Screens) peoplePage(r *shell.Request, status int, v peopleView) error {
	var err error
	if v.Frame, _, err = s.FrameFor(r, "People"); err != nil {
		return err
	}
	everyone, err := s.App.Everyone(r.Ctx())
	if err != nil {
		return err
	}
	v.Self = urls.People
	if v.Roles == nil {
		v.Roles = roleOptions(workflow.Editor)
	}
	for _, p := range everyone {
		v.Rows = append(v.Rows, personView{
			Name: p.Name, Login: p.Login, Role: string(p.Role), URL: urls.People + "/" + p.ID, PasswordURL: urls.People + "/" + p.ID + "/password",
			Roles: roleOptions(p.Role), Inactive: p.Inactive, Self: p.ID == r.Who.ID, NoPassword: p.PasswordHash == "",
		})
	}
	return s.Show(r, status, "people", v)
}

func roleOptions(chosen workflow.Role) []part.Option {
	var out []part.Option
	for _, role := range workflow.Roles() {
		out = append(out, part.Option{Value: string(role), Label: string(role), Chosen: role == chosen})
	}
	return out
}

// problemWith shows what of a form about people cannot be done.
func (s *Screens) peopleProblem(r *shell.Request, err error, v peopleView) error {
	invalid := (*plan.Invalid)(nil)
	if !errors.As(err, &invalid) {
		return err
	}
	v.Problem, v.Field = invalid.Message, invalid.Field
	return s.peoplePage(r, http.StatusUnprocessableEntity, v)
}

func (s *Screens) addPerson(r *shell.Request) error {
	p := plan.Person{Name: r.PostForm("name"), Login: r.PostForm("login"), Role: workflow.Role(r.PostForm("role"))}
	token, err := s.App.AddPerson(r.Ctx(), r.Who, p)
	if err != nil {
		return s.peopleProblem(r, err, peopleView{Name: p.Name, Login: p.Login, Roles: roleOptions(p.Role)})
	}
	return s.peoplePage(r, http.StatusOK, peopleView{Link: &linkForView{p.Name, shell.BaseOf(r) + urls.Password + "/" + token}})
}

func (s *Screens) changePerson(r *shell.Request) error {
	err := s.App.ChangePerson(r.Ctx(), r.Who, r.Param("id"), workflow.Role(r.PostForm("role")), r.PostForm("inactive") != "")
	if err != nil {
		return s.peopleProblem(r, err, peopleView{})
	}
	s.Forget()
	r.Redirect(http.StatusSeeOther, urls.People)
	return nil
}

func (s *Screens) newPassword(r *shell.Request) error {
	token, err := s.App.NewPassword(r.Ctx(), r.Who, r.Param("id"))
	if err != nil {
		return s.peopleProblem(r, err, peopleView{})
	}
	return s.peoplePage(r, http.StatusOK, peopleView{Link: &linkForView{r.PostForm("name"), shell.BaseOf(r) + urls.Password + "/" + token}})
}
