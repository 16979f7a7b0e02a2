package addresses

import (
	"cmp"
	"errors"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/address"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

type movesView struct {
	shell.Frame
	Rows  []moveRow
	Total string
	More  string
	Edit  string
}

type moveRow struct {
	Title, From, To, Code, Status, Words, URL string
	Bad                                       bool
}

// moves lists the addresses that change with what is planned.
func (s *Screens) moves(r *shell.Request) error {
	o, err := s.App.Summary(r.Ctx(), r.Who)
	if err != nil {
		return err
	}
	n := *o.Next
	v := movesView{Frame: r.Frame(o, "Moves"), Edit: urls.Edition}
	total := 0
	plan := slices.DeleteFunc(slices.Clone(n.Draft.Plan), func(r redirect.Row) bool { return r.Status == redirect.Kept })
	slices.SortStableFunc(plan, func(a, b redirect.Row) int { // what needs somebody comes first
		return cmp.Compare(part.Btoi(b.Status.IsFinding()), part.Btoi(a.Status.IsFinding()))
	})
	for _, row := range plan {
		if total++; total > part.EntriesShown {
			continue
		}
		rv := part.NewRedirect(row, n.Draft.Tree)
		m := moveRow{From: rv.From, To: rv.To, Code: rv.Code, Status: rv.Status, Words: part.StatusWords[row.Status], Bad: row.Status == redirect.Undecided || row.Status == redirect.Dangling}
		if i := n.Trees.Live.PageAt(row.From); i != sitemap.None {
			m.Title = n.Trees.Live.Ref(i).Title
			if n.Trees.Next.Find(n.Trees.Live.Ref(i).ID) != sitemap.None {
				m.URL = urls.At(n.Trees.Live.Ref(i).ID)
			}
		} else if j := n.Draft.Tree.Find(row.To.Entry); j != sitemap.None {
			m.Title, m.URL = n.Draft.Tree.Ref(j).Title, urls.At(row.To.Entry)
		}
		if m.Bad {
			m.URL = urls.Edition + "#decisions"
		}
		v.Rows = append(v.Rows, m)
	}
	v.Total = part.Count(total, "address", "addresses")
	if total > part.EntriesShown {
		v.More = part.Thousands(total-part.EntriesShown) + " more."
	}
	return s.Show(r, http.StatusOK, "moves", v)
}

type redirectsView struct {
	shell.Frame
	Rows          []part.RedirectView
	Q             string
	Total         string
	More          string
	Self          string
	Problem       string
	Releases      bool // this person may release addresses
	ReleaseURL    string
	Address, Why  string // of a release that was refused
	ReleasedNow   []releasedView
	ReleasedSince []releasedView
}

// releasedView is an address that was given up, or is planned to be.
type releasedView struct{ Address, Why, By, Edition string }

// redirects lists the live table, and the addresses that were given up.
func (s *Screens) redirects(r *shell.Request) error {
	return s.redirectsPage(r, http.StatusOK, redirectsView{Address: r.Query("release")})
}

func (s *Screens) redirectsPage(r *shell.Request, status int, v redirectsView) error {
	f, n, err := s.FrameFor(r, "Redirects")
	if err != nil {
		return err
	}
	table, list, err := s.App.Redirects(r.Ctx(), r.Who)
	if err != nil {
		return err
	}
	people, err := s.App.Everyone(r.Ctx())
	if err != nil {
		return err
	}
	v.Frame, v.Q, v.Self, v.ReleaseURL = f, strings.TrimSpace(r.Query("q")), urls.Redirects, urls.Releases
	v.Releases = r.Site.Rights().May(r.Who.Role, workflow.Govern)
	total := 0
	for _, row := range table {
		rv := part.NewRedirect(row, n.Trees.Live)
		if v.Q != "" && !strings.Contains(rv.From, v.Q) && !strings.Contains(rv.To, v.Q) {
			continue
		}
		if total++; total <= part.EntriesShown {
			v.Rows = append(v.Rows, rv)
		}
	}
	v.Total = part.Count(total, "redirect", "redirects")
	if total > part.EntriesShown {
		v.More = part.Thousands(total-part.EntriesShown) + " more; search to narrow the list down."
	}
	for _, one := range list {
		rv := releasedView{address.Written(one.Address), one.Why, part.PersonName(people, one.PersonID) + ", " + one.At.UTC().Format("2 January 2006"), strconv.Itoa(one.Edition)}
		if one.Edition == 0 {
			v.ReleasedNow = append(v.ReleasedNow, rv)
		} else {
			v.ReleasedSince = append(v.ReleasedSince, rv)
		}
	}
	return s.Show(r, status, "redirects", v)
}

// release plans to give an address up.
func (s *Screens) release(r *shell.Request) error {
	addr, why := r.PostForm("address"), r.PostForm("why")
	err := s.App.ReleaseAddress(r.Ctx(), r.Who, addr, why)
	if invalid := (*plan.Invalid)(nil); errors.As(err, &invalid) {
		return s.redirectsPage(r, http.StatusUnprocessableEntity, redirectsView{Problem: invalid.Message, Address: addr, Why: why})
	}
	if err != nil {
		return err
	}
	r.Redirect(http.StatusSeeOther, urls.Redirects+"#released")
	return nil
}

func (s *Screens) keepAddress(r *shell.Request) error {
	if err := s.App.KeepAddress(r.Ctx(), r.Who, r.PostForm("address")); err != nil {
		return err
	}
	r.Redirect(http.StatusSeeOther, urls.Redirects+"#released")
	return nil
}
