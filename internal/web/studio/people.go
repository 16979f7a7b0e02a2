package studio

import (
	"errors"
	"net/http"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/workflow"
	"candlepath/internal/web/urls"
)

type peopleView struct {
	frame
	Self, Problem, Field string
	Name, Login          string // of somebody who could not be added
	Roles                []option
	Rows                 []personView
	Link                 *linkForView
}

type personView struct {
	Name, Login, Role, URL, PasswordURL string
	Roles                               []option
	Inactive, Self, NoPassword          bool
}

// linkForView is a link that is shown once.
type linkForView struct{ Name, URL string }

func (s *Studio) people(r *request) error { return s.peoplePage(r, http.StatusOK, peopleView{}) }

func (s *Studio) peoplePage(r *request, status int, v peopleView) error {
	var err error
	if v.frame, _, err = s.frameFor(r, "Settings", "People", "People"); err != nil {
		return err
	}
	everyone, err := s.app.Everyone(r.ctx())
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
			Roles: roleOptions(p.Role), Inactive: p.Inactive, Self: p.ID == r.who.ID, NoPassword: p.PasswordHash == "",
		})
	}
	return s.show(r, status, "people", v)
}

func roleOptions(chosen workflow.Role) []option {
	var out []option
	for _, role := range workflow.Roles() {
		out = append(out, option{string(role), string(role), role == chosen})
	}
	return out
}

// problemWith shows what of a form about people cannot be done.
func (s *Studio) peopleProblem(r *request, err error, v peopleView) error {
	invalid := (*plan.Invalid)(nil)
	if !errors.As(err, &invalid) {
		return err
	}
	v.Problem, v.Field = invalid.Message, invalid.Field
	return s.peoplePage(r, http.StatusUnprocessableEntity, v)
}

func (s *Studio) addPerson(r *request) error {
	p := plan.Person{Name: r.PostForm("name"), Login: r.PostForm("login"), Role: workflow.Role(r.PostForm("role"))}
	token, err := s.app.AddPerson(r.ctx(), r.who, p)
	if err != nil {
		return s.peopleProblem(r, err, peopleView{Name: p.Name, Login: p.Login, Roles: roleOptions(p.Role)})
	}
	return s.peoplePage(r, http.StatusOK, peopleView{Link: &linkForView{p.Name, baseOf(r) + urls.Password + "/" + token}})
}

func (s *Studio) changePerson(r *request) error {
	err := s.app.ChangePerson(r.ctx(), r.who, r.Param("id"), workflow.Role(r.PostForm("role")), r.PostForm("inactive") != "")
	if err != nil {
		return s.peopleProblem(r, err, peopleView{})
	}
	s.forget()
	r.Redirect(http.StatusSeeOther, urls.People)
	return nil
}

func (s *Studio) newPassword(r *request) error {
	token, err := s.app.NewPassword(r.ctx(), r.who, r.Param("id"))
	if err != nil {
		return s.peopleProblem(r, err, peopleView{})
	}
	return s.peoplePage(r, http.StatusOK, peopleView{Link: &linkForView{r.PostForm("name"), baseOf(r) + urls.Password + "/" + token}})
}

// baseOf is what links to this site begin with, as it is reached here.
func baseOf(r *request) string { return urls.Base(r.Request, r.site.Hosts) }
