package addresses

import (
	"errors"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"candlepath/internal/app/addresses"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/address"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

type redirectsView struct {
	shell.Frame
	Rows    []redirectRow
	Filters []part.CountView
	Show, Q string
	Before  string // the day of the filter that needs one, where one was chosen
	Since   string // the day that it goes by
	Dated   bool   // that filter is shown
	Any     bool
	part.Pager
	Self, Plan, Drop, Undo, Redo, Many string
	Rules, Bulk, Picture               string
	BulkKey                            string
	Said, Problem                      string
	Inline                             bool // the form stands in the row that it changes
	Form                               formView
	Released                           releasesView
}

// redirectRow is a redirect of the list.
type redirectRow struct {
	part.RedirectView
	ID, Key, How, State, Was, Origin, TestURL, ToURL, EditURL string
	CameFrom                                                  string // of the older site
	Planned, Lost, Editing                                    bool
	Used                                                      string // how often of late, or when last
	Bars                                                      []hitBar
	CoversURL                                                 string
}

// hitBar is one day of how often a redirect was used, drawn small.
type hitBar struct{ X, Y, Height int }

// formView is the form by which one redirect is added or changed.
type formView struct {
	Key, From, To, ToID, Note, Review, Says string
	Codes, Matches                          []part.Option
	Hosts                                   []part.Option // under which it is asked for; empty: there is one name
	Edits, Open                             bool
}

// releasesView is the part about addresses that are given up.
type releasesView struct {
	May          bool // this person may release addresses
	URL          string
	Problem      string
	Address, Why string // of a release that was refused
	Now, Since   []releasedView
}

// releasedView is an address that was given up, or is planned to be.
type releasedView struct {
	Address, Why, By, Edition string
	Below                     bool
}

// states is how people call the state of a row.
var states = map[redirect.ListState]string{redirect.Answers: "live", redirect.Planned: "planned", redirect.Changing: "changes"}

// origins is how people call where a row comes from.
var origins = map[redirect.Origin]string{redirect.ByHand: "by hand", redirect.ByMove: "by a move", redirect.FromOlder: "older site"}

// kinds are the codes as people choose them.
func kinds(chosen string) []part.Option {
	return part.Choose([]part.Option{
		{Value: "permanent", Label: "Permanent: the page is elsewhere for good (301)"},
		{Value: "temporary", Label: "Temporary: the old address comes back (302)"},
		{Value: "gone", Label: "Gone: there is no page for it any more (410)"},
		{Value: "307", Label: "Temporary, forms stay forms (307)"},
		{Value: "308", Label: "Permanent, forms stay forms (308)"},
	}, chosen)
}

func matches(chosen string) []part.Option {
	return part.Choose([]part.Option{
		{Value: "exact", Label: "this address alone"},
		{Value: "prefix", Label: "it and all below, each to the same place below the target"},
		{Value: "branch", Label: "it and all below, all to the one target"},
	}, chosen)
}

func codeName(code int) string {
	switch code {
	case 301:
		return "permanent"
	case 302:
		return "temporary"
	case redirect.Gone:
		return "gone"
	}
	return strconv.Itoa(code)
}

// redirects lists the redirects, and the addresses that were given up.
func (s *Screens) redirects(r *shell.Request) error {
	v := redirectsView{Released: releasesView{Address: r.Query("release")}, Said: r.Query("said")}
	return s.redirectsPage(r, http.StatusOK, v)
}

func (s *Screens) redirectsPage(r *shell.Request, status int, v redirectsView) error {
	f, n, err := s.FrameFor(r, "Redirects")
	if err != nil {
		return err
	}
	list, err := s.App.Redirects(r.Ctx(), r.Who)
	if err != nil {
		return err
	}
	people, err := s.App.Everyone(r.Ctx())
	if err != nil {
		return err
	}
	v.Frame, v.Self, v.Picture, v.Rules, v.Bulk, v.BulkKey = f, urls.Redirects, urls.Flows, urls.Rules, urls.RedirectBulk, part.NewKey()
	v.Plan, v.Drop, v.Undo, v.Redo, v.Many = urls.RedirectAct, urls.RedirectDrop, urls.RedirectUndo, urls.RedirectUndo+"?again=1", urls.RedirectList
	list.Now = list.Now.Before(r.Query("before"))
	if r.Query("before") == list.Now.Since {
		v.Before = list.Now.Since
	}
	v.fill(list, r.Query("show"), strings.TrimSpace(r.Query("q")), r.Page())
	if err := s.drawHits(r, v.Rows); err != nil {
		return err
	}
	if v.Form.Key == "" {
		v.Form = newForm(list, n.Trees.Next, r.Query("edit"), r.Site.OldHosts())
		for i := range v.Rows {
			v.Rows[i].EditURL = urls.RedirectEditAt(v.Show, v.Q, v.Before, r.Page(), v.Rows[i].ID)
			if v.Form.Edits && v.Rows[i].ID == r.Query("edit") {
				v.Rows[i].Editing, v.Inline = true, true
			}
		}
		if from := r.Query("from"); from != "" && !v.Form.Edits {
			v.Form.From, v.Form.Open = from, true
		}
	}
	v.Released.fill(list.Released, people)
	v.Released.May, v.Released.URL = r.Site.Rights().May(r.Who.Role, workflow.Govern), urls.Releases
	return s.Show(r, status, "redirects", v)
}

// fill shows a page of the rows that a filter and words leave, with what each filter would.
func (v *redirectsView) fill(list addresses.RedirectList, show, q string, page int) {
	v.Q, v.Show, v.Any = q, show, len(list.Rows) > 0
	worded := make([]*redirect.Listed, 0, len(list.Rows))
	small := strings.ToLower(q)
	for i := range list.Rows {
		l := &list.Rows[i]
		if q == "" || strings.Contains(redirect.WrittenFrom(l.From), q) || strings.Contains(redirect.WrittenTo(l.To, list.Trees.Next), q) || strings.Contains(strings.ToLower(l.Note), small) {
			worded = append(worded, l)
		}
	}
	var shown []*redirect.Listed
	for _, f := range redirect.ListFilters() {
		n := 0
		for _, l := range worded {
			if f.Fits(l, list.Now) {
				if n++; f.Key == show {
					shown = append(shown, l)
				}
			}
		}
		v.Filters = append(v.Filters, part.CountView{Words: f.Words, N: part.Thousands(n), Here: f.Key == show, URL: urls.RedirectsPage(f.Key, q, v.Before, 1)})
	}
	v.Pager = part.NewPager(page, len(shown), func(n int) string { return urls.RedirectsPage(show, q, v.Before, n) })
	if v.Dated = show == redirect.LongUnused; v.Dated {
		v.Since = list.Now.Since
	}
	for _, l := range shown[max(v.First-1, 0):max(v.Last, 0)] {
		v.Rows = append(v.Rows, newRedirectRow(*l, list.Trees))
	}
}

func newRedirectRow(l redirect.Listed, trees plan.Trees) redirectRow {
	row := redirectRow{
		RedirectView: part.NewRedirect(l.Row, trees.Next), ID: l.Key().ID(), Key: part.NewKey(), How: codeName(l.Code), State: states[l.State], Origin: origins[l.Origin],
		Planned: l.State != redirect.Answers, TestURL: urls.TestOf(redirect.WrittenFrom(l.From)), EditURL: urls.RedirectEdit(l.Key().ID()),
	}
	if l.Origin == redirect.FromOlder {
		row.CameFrom, row.Note = row.Note, ""
	}
	if l.State == redirect.Answers {
		note := row.Note
		row.RedirectView = part.NewRedirect(l.Row, trees.Live)
		row.Note = note
	}
	row.Lost = l.Lost
	switch {
	case l.Use.N > 0:
		row.Used = part.Thousands(l.Use.N)
	case l.Use.Last != "":
		row.Used = "last " + l.Use.Last
	}
	if l.Match != redirect.Exact {
		row.CoversURL = urls.CoveredBy(l.Key().ID())
	}
	if l.Was != nil {
		row.Was = l.Was.Words(trees.Live)
	}
	if trees.Next.Find(l.To.Entry) != sitemap.None {
		row.ToURL = urls.At(l.To.Entry)
	}
	return row
}

// drawHits draws how often the rows shown were used on each day.
func (s *Screens) drawHits(r *shell.Request, rows []redirectRow) error {
	ids := make([]string, len(rows))
	for i := range rows {
		ids[i] = rows[i].ID
	}
	days, err := s.App.HitDays(r.Ctx(), r.Who, ids)
	for i := range rows {
		rows[i].Bars = barsOf(days[rows[i].ID])
	}
	return err
}

// barsOf draws numbers as bars of at most 16 units, 3 apart.
func barsOf(days []int) (out []hitBar) {
	most := 1
	for _, n := range days {
		most = max(most, n)
	}
	for i, n := range days {
		if h := (n*16 + most - 1) / most; h > 0 {
			out = append(out, hitBar{X: 3 * i, Y: 16 - h, Height: h})
		}
	}
	return out
}

// bulk does one thing to the redirects that are ticked.
func (s *Screens) bulk(r *shell.Request) error {
	ids, key := r.PostFormArray("id"), r.PostForm("key")
	var res plan.PlanResult
	var err error
	switch r.PostForm("do") {
	case "drop":
		res, err = s.App.DropRedirects(r.Ctx(), r.Who, key, ids)
		if errors.Is(err, plan.ErrNotFound) {
			err = plan.Refuse("", "None of the redirects that are ticked is planned. What is live ends only by releasing its address.")
		}
	case "release":
		var addrs []string
		for _, id := range ids {
			if k, ok := redirect.ParseKey(id); ok {
				addrs = append(addrs, redirect.WrittenFrom(k.From))
			}
		}
		if err = s.App.ReleaseAddresses(r.Ctx(), r.Who, addrs, r.PostForm("why")); err == nil {
			res.Label = "planned to release " + part.Count(len(addrs), "address", "addresses")
		}
	default:
		res, err = s.App.ChangeMany(r.Ctx(), r.Who, key, ids, r.PostForm("code"), r.PostForm("review"))
	}
	if invalid := (*plan.Invalid)(nil); errors.As(err, &invalid) {
		return s.redirectsPage(r, http.StatusUnprocessableEntity, redirectsView{Problem: invalid.Message})
	}
	return s.did(r, res, err)
}

// newForm is the form for a new redirect, or for the one of a key.
func newForm(list addresses.RedirectList, next *sitemap.Tree, edit string, hosts []string) formView {
	f := formView{Key: part.NewKey(), Codes: kinds("permanent"), Matches: matches("exact"), Hosts: underHosts(hosts, "")}
	for _, l := range list.Rows {
		if l.Key().ID() != edit || edit == "" {
			continue
		}
		host, from, _ := address.CutHost(l.From)
		f.Hosts = underHosts(hosts, host)
		f.Edits, f.From, f.Note, f.Review, f.Says = true, redirect.WrittenFrom(from), l.Note, l.Review, l.Says
		f.Codes, f.Matches = kinds(codeName(l.Code)), matches(string(l.Match))
		if l.Code != redirect.Gone {
			f.To = redirect.WrittenTo(l.To, next)
		}
	}
	return f
}

// underHosts offers the host names for which alone a redirect can be.
func underHosts(hosts []string, chosen string) []part.Option {
	if chosen != "" && !slices.Contains(hosts, chosen) {
		hosts = append(slices.Clone(hosts), chosen)
	}
	if len(hosts) == 0 {
		return nil
	}
	out := []part.Option{{Label: "any name of the site"}}
	for _, h := range hosts {
		out = append(out, part.Option{Value: h, Label: h + " alone"})
	}
	return part.Choose(out, chosen)
}

func (v *releasesView) fill(list []plan.ReleasedAddress, people []plan.Person) {
	for _, one := range list {
		rv := releasedView{address.Written(one.Address), one.Why, part.PersonName(people, one.PersonID) + ", " + one.At.UTC().Format("2 January 2006"), strconv.Itoa(one.Edition), one.Below}
		if one.Edition == 0 {
			v.Now = append(v.Now, rv)
		} else {
			v.Since = append(v.Since, rv)
		}
	}
}

// planRedirect plans one redirect.
func (s *Screens) planRedirect(r *shell.Request) error {
	w := redirect.Wish{From: r.PostForm("from"), To: r.PostForm("to"), Code: r.PostForm("code"), Match: r.PostForm("match"), Note: r.PostForm("note"), Review: r.PostForm("review"), Says: r.PostForm("says")}
	if id := r.PostForm("to-id"); id != "" {
		w.To = "page:" + id
	}
	from, host := w.From, r.PostForm("host")
	if host != "" && strings.HasPrefix(from, "/") {
		w.From = address.OnHost(host, from)
	}
	res, err := s.App.PlanRedirects(r.Ctx(), r.Who, r.PostForm("key"), []redirect.Wish{w})
	if invalid := (*plan.Invalid)(nil); errors.As(err, &invalid) {
		form := formView{Key: part.NewKey(), From: from, Hosts: underHosts(r.Site.OldHosts(), host), To: r.PostForm("to"), ToID: r.PostForm("to-id"), Note: w.Note, Review: w.Review, Says: w.Says, Codes: kinds(w.Code), Matches: matches(w.Match)}
		return s.redirectsPage(r, http.StatusUnprocessableEntity, redirectsView{Problem: invalid.Message, Form: form})
	}
	return s.did(r, res, err)
}

// dropRedirects takes planned redirects out of the plan.
func (s *Screens) dropRedirects(r *shell.Request) error {
	res, err := s.App.DropRedirects(r.Ctx(), r.Who, r.PostForm("key"), r.PostFormArray("id"))
	return s.did(r, res, err)
}

// undoRedirects takes the last act back, or does it again.
func (s *Screens) undoRedirects(r *shell.Request) error {
	turn := s.App.Undo
	if r.Query("again") != "" {
		turn = s.App.Redo
	}
	res, err := turn(r.Ctx(), r.Who)
	return s.did(r, res, err)
}

func (s *Screens) did(r *shell.Request, res plan.PlanResult, err error) error {
	if err != nil {
		return err
	}
	r.Redirect(http.StatusSeeOther, urls.RedirectsSaid(part.UpperFirst(res.Label)+"."))
	return nil
}

// release plans to give an address up.
func (s *Screens) release(r *shell.Request) error {
	addr, why := r.PostForm("address"), r.PostForm("why")
	err := s.App.ReleaseAddresses(r.Ctx(), r.Who, []string{addr}, why)
	if invalid := (*plan.Invalid)(nil); errors.As(err, &invalid) {
		return s.redirectsPage(r, http.StatusUnprocessableEntity, redirectsView{Released: releasesView{Problem: invalid.Message, Address: addr, Why: why}})
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
