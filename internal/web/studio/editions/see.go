package editions

import (
	"errors"
	"fmt"
	"net/http"
	"strconv"
	"strings"
	"time"

	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	"candlepath/internal/app/reading"
	"candlepath/internal/core/workflow"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

// seeView is the reader site of a state, walked through in a frame.
type seeView struct {
	shell.Frame
	Self, Called, Inside string
	Of, As, At, Width    string
	States, Readers      []part.Option
	Widths               []seeWidth
	Pages                []seePage
	News, More, Zip      string
	Planned              bool
	Links                []seeLink
	Share, End           string
	Day, Least, Most     string
	Made, Error          string
}

type seeWidth struct {
	Name, URL string
	Here      bool
}

type seePage struct {
	Title, Kind, URL string
	Here             bool
}

type seeLink struct {
	ID, Words, Until string
	MayEnd           bool
}

// seeWidths are the widths at which the site is looked at, by their names in addresses.
var seeWidths = [][2]string{{"wide", "Desktop"}, {"medium", "Tablet"}, {"small", "Phone"}}

func (s *Screens) see(r *shell.Request) error { return s.seePage(r, http.StatusOK, "", "") }

func (s *Screens) seePage(r *shell.Request, status int, made, problem string) error {
	f, n, err := s.FrameFor(r, "Preview the site")
	if err != nil {
		return err
	}
	ask := func(name, otherwise string) string {
		return part.OrElse(part.OrElse(r.Query(name), r.PostForm(name)), otherwise)
	}
	v := seeView{
		Frame: f, Self: urls.See, Of: ask("of", editions.ShowNext), As: ask("as", ""), At: ask("at", "/"), Width: "wide",
		Share: urls.ShareState, End: urls.EndLink, Made: made, Error: problem,
	}
	if !strings.HasPrefix(v.At, "/") {
		v.At = "/"
	}
	st, err := s.App.StateOf(r.Ctx(), r.Who, v.Of)
	if err != nil {
		return err
	}
	pages, err := s.App.ShownTo(r.Ctx(), st, v.As)
	if err != nil {
		return err
	}
	people, err := s.App.Everyone(r.Ctx())
	if err != nil {
		return err
	}
	links, who, err := s.App.ShownLinks(r.Ctx(), r.Who)
	if err != nil {
		return err
	}
	if !st.Planned {
		v.Frame = v.In(shell.ViewPast)
	}
	v.fill(st, pages, people, n.Site.Edition)
	for _, w := range seeWidths {
		if w[0] == ask("width", "") {
			v.Width = w[0]
		}
	}
	for _, w := range seeWidths {
		v.Widths = append(v.Widths, seeWidth{w[1], urls.SeeAt(v.Of, v.As, v.At, w[0]), w[0] == v.Width})
	}
	v.pages(pages)
	if !st.Planned {
		v.Zip = urls.ExportEdition(st.Site.Edition)
	}
	v.links(links, who, r.Who, n.Site.Rights().May(r.Who.Role, workflow.Govern))
	return s.Show(r, status, "see", v)
}

func (v *seeView) fill(st plan.SiteState, pages []reading.ShownPage, people []plan.Person, live int) {
	v.Called, v.Planned, v.Inside = st.Called(), st.Planned, urls.ShownBelow(v.Of, v.As)+v.At
	v.States = []part.Option{
		{Value: editions.ShowNext, Label: "Next, everything planned"}, {Value: editions.ShowChosen, Label: "Next, my selection"},
	}
	for n := live; n > 0; n-- {
		o := part.Option{Value: strconv.Itoa(n), Label: "Edition " + strconv.Itoa(n)}
		if n == live {
			o.Label += ", live"
		}
		v.States = append(v.States, o)
	}
	v.States = part.Choose(v.States, v.Of)
	v.Readers = []part.Option{{Value: "", Label: "Someone who is not signed in"}}
	for _, role := range workflow.Roles() {
		v.Readers = append(v.Readers, part.Option{Value: string(role), Label: "Any " + string(role)})
	}
	for _, p := range people {
		v.Readers = append(v.Readers, part.Option{Value: p.Login, Label: p.Name + ", " + string(p.Role)})
	}
	v.Readers = part.Choose(v.Readers, v.As)
	v.News = "No pages change for this reader."
	if len(pages) > 0 {
		v.News = part.Count(len(pages), "new or changed page", "new or changed pages")
	}
	today := time.Now().UTC()
	v.Least, v.Day, v.Most = today.Format(time.DateOnly), today.AddDate(0, 0, 7).Format(time.DateOnly), today.AddDate(0, 0, 89).Format(time.DateOnly)
}

func (v *seeView) pages(pages []reading.ShownPage) {
	if more := len(pages) - part.EntriesShown; more > 0 {
		v.More = fmt.Sprintf("%s more, marked in the preview.", part.Thousands(more))
		pages = pages[:part.EntriesShown]
	}
	for _, p := range pages {
		v.Pages = append(v.Pages, seePage{p.Title, string(p.Kind), urls.SeeAt(v.Of, v.As, p.Address, v.Width), p.Address == v.At})
	}
}

func (v *seeView) links(list []editions.ShownLink, people map[string]plan.Person, who plan.Person, governs bool) {
	for _, l := range list {
		words := people[l.PersonID].Name + " shared everything planned"
		if l.Of == editions.ShowChosen {
			words = people[l.PersonID].Name + " shared a selection"
		}
		if l.Remarks > 0 {
			words += ", " + part.Count(l.Remarks, "comment", "comments")
		}
		v.Links = append(v.Links, seeLink{l.ID, words, part.At(l.Ends).Words, l.PersonID == who.ID || governs})
	}
}

// shown writes a page of a state for the frame.
func (s *Screens) shown(r *shell.Request) error {
	of, as := r.Param("of"), r.Param("as")
	if as == urls.Nobody {
		as = ""
	}
	st, err := s.App.StateOf(r.Ctx(), r.Who, of)
	if err != nil {
		return err
	}
	at := part.OrElse(r.Param("at"), "/")
	if r.Request.URL.RawQuery != "" {
		at += "?" + r.Request.URL.RawQuery
	}
	return s.show(r.Writer, r.Request, reading.Show{State: st, As: as, Below: urls.ShownBelow(of, as), At: at, Framed: true})
}

// shareState makes a link for somebody without an account.
func (s *Screens) shareState(r *shell.Request) error {
	ends, err := time.Parse(time.DateOnly, r.PostForm("day"))
	if err != nil {
		return s.seePage(r, http.StatusUnprocessableEntity, "", "Choose when the link expires.")
	}
	l := editions.ShownLink{Of: r.PostForm("of"), As: r.PostForm("as"), Ends: ends.AddDate(0, 0, 1).Add(-time.Second)}
	secret, err := s.App.ShareState(r.Ctx(), r.Who, l)
	var invalid *plan.Invalid
	if errors.As(err, &invalid) {
		return s.seePage(r, http.StatusUnprocessableEntity, "", invalid.Message)
	}
	if err != nil {
		return err
	}
	site, err := s.App.SiteNow(r.Ctx())
	if err != nil {
		return err
	}
	return s.seePage(r, http.StatusOK, urls.Base(r.Request, site.Hosts)+urls.AheadAt(secret)+"/", "")
}

func (s *Screens) endLink(r *shell.Request) error {
	if err := s.App.EndLink(r.Ctx(), r.Who, r.PostForm("id")); err != nil {
		return err
	}
	r.Redirect(http.StatusSeeOther, urls.SeeAt(r.PostForm("of"), r.PostForm("as"), r.PostForm("at"), r.PostForm("width")))
	return nil
}
