package studio

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
	"candlepath/internal/web/urls"
)

type movesView struct {
	frame
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
func (s *Studio) moves(r *request) error {
	o, err := s.app.Summary(r.ctx(), r.who)
	if err != nil {
		return err
	}
	n := *o.Next
	v := movesView{frame: newFrame(r.who, o, "Addresses", "Moves", "Moves"), Edit: urls.Edition}
	total := 0
	plan := slices.DeleteFunc(slices.Clone(n.Draft.Plan), func(r redirect.Row) bool { return r.Status == redirect.Kept })
	slices.SortStableFunc(plan, func(a, b redirect.Row) int { // what needs somebody comes first
		return cmp.Compare(btoi(b.Status.IsFinding()), btoi(a.Status.IsFinding()))
	})
	for _, row := range plan {
		if total++; total > entriesShown {
			continue
		}
		rv := newRedirect(row, n.Draft.Tree)
		m := moveRow{From: rv.From, To: rv.To, Code: rv.Code, Status: rv.Status, Words: statusWords[row.Status], Bad: row.Status == redirect.Undecided || row.Status == redirect.Dangling}
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
	v.Total = count(total, "address", "addresses")
	if total > entriesShown {
		v.More = thousands(total-entriesShown) + " more."
	}
	return s.show(r, http.StatusOK, "moves", v)
}

func btoi(b bool) int {
	if b {
		return 1
	}
	return 0
}

var statusWords = map[redirect.Status]string{
	redirect.Added:     "redirect is added",
	redirect.Changed:   "redirect leads elsewhere",
	redirect.Retired:   "redirect ends: a page has this address",
	redirect.Blocked:   "another page takes this address",
	redirect.Undecided: "needs a decision",
	redirect.Dangling:  "leads to nothing",
}

type redirectsView struct {
	frame
	Rows          []redirectView
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
func (s *Studio) redirects(r *request) error {
	return s.redirectsPage(r, http.StatusOK, redirectsView{Address: r.Query("release")})
}

func (s *Studio) redirectsPage(r *request, status int, v redirectsView) error {
	f, n, err := s.frameFor(r, "Addresses", "Redirects", "Redirects")
	if err != nil {
		return err
	}
	table, list, err := s.app.Redirects(r.ctx(), r.who)
	if err != nil {
		return err
	}
	people, err := s.app.Everyone(r.ctx())
	if err != nil {
		return err
	}
	v.frame, v.Q, v.Self, v.ReleaseURL = f, strings.TrimSpace(r.Query("q")), urls.Redirects, urls.Releases
	v.Releases = r.site.Rights.May(r.who.Role, workflow.Govern)
	total := 0
	for _, row := range table {
		rv := newRedirect(row, n.Trees.Live)
		if v.Q != "" && !strings.Contains(rv.From, v.Q) && !strings.Contains(rv.To, v.Q) {
			continue
		}
		if total++; total <= entriesShown {
			v.Rows = append(v.Rows, rv)
		}
	}
	v.Total = count(total, "redirect", "redirects")
	if total > entriesShown {
		v.More = thousands(total-entriesShown) + " more; search to narrow the list down."
	}
	for _, one := range list {
		rv := releasedView{address.Written(one.Address), one.Why, personName(people, one.PersonID) + ", " + one.At.UTC().Format("2 January 2006"), strconv.Itoa(one.Edition)}
		if one.Edition == 0 {
			v.ReleasedNow = append(v.ReleasedNow, rv)
		} else {
			v.ReleasedSince = append(v.ReleasedSince, rv)
		}
	}
	return s.show(r, status, "redirects", v)
}

// release plans to give an address up.
func (s *Studio) release(r *request) error {
	addr, why := r.PostForm("address"), r.PostForm("why")
	err := s.app.ReleaseAddress(r.ctx(), r.who, addr, why)
	if invalid := (*plan.Invalid)(nil); errors.As(err, &invalid) {
		return s.redirectsPage(r, http.StatusUnprocessableEntity, redirectsView{Problem: invalid.Message, Address: addr, Why: why})
	}
	if err != nil {
		return err
	}
	r.Redirect(http.StatusSeeOther, urls.Redirects+"#released")
	return nil
}

func (s *Studio) keepAddress(r *request) error {
	if err := s.app.KeepAddress(r.ctx(), r.who, r.PostForm("address")); err != nil {
		return err
	}
	r.Redirect(http.StatusSeeOther, urls.Redirects+"#released")
	return nil
}
