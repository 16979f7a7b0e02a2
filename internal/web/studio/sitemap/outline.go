package sitemap

import (
	"context"
	"fmt"
	"net/http"
	"strconv"
	"strings"

	"candlepath/internal/app/plan"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/address"
	"candlepath/internal/core/change"
	"candlepath/internal/core/content"
	"candlepath/internal/core/reach"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

type outlineView struct {
	shell.Frame
	planURLs
	At, BringIn string
	Empty       bool
}

func (s *Screens) outline(r *shell.Request) error {
	f, next, err := s.FrameFor(r, "Sitemap", "Outline", "Outline")
	if err != nil {
		return err
	}
	return s.Show(r, http.StatusOK, "outline", outlineView{
		Frame: f, planURLs: newPlanURLs(), At: r.Query("at"),
		Empty: next.Trees.Next.Len() == 0, BringIn: urls.BringIn,
	})
}

func (s *Screens) rows(r *shell.Request) error {
	o, err := s.App.Outline(r.Ctx())
	if err != nil {
		return err
	}
	m := part.NewRowMaker(o)
	rows := make([]part.RowView, o.Trees.Next.Len())
	for i := range rows {
		rows[i] = m.Row(i)
	}
	names, err := s.namesFor(r)
	if err != nil {
		return err
	}
	views, err := s.App.SavedViews(r.Ctx(), r.Who)
	if err != nil {
		return err
	}
	r.JSON(http.StatusOK, rowsAnswer{o.Site.PlanVersion, o.Site.Edition, s.App.Today(), rows, names, views})
	return nil
}

// rowsAnswer is the whole outline as its script keeps it.
type rowsAnswer struct {
	Version int64                  `json:"version"`
	Edition int                    `json:"edition"`
	Today   string                 `json:"today"`
	Rows    []part.RowView         `json:"rows"`
	Names   names                  `json:"names"`
	Views   []appsitemap.SavedView `json:"views"`
}

// names is what cells are chosen from.
type names struct {
	Kinds     [][2]string `json:"kinds"`
	Templates [][2]string `json:"templates"`
	Owners    []string    `json:"owners"`
}

func (s *Screens) namesFor(r *shell.Request) (n names, err error) {
	for _, k := range sitemap.Kinds() {
		n.Kinds = append(n.Kinds, [2]string{string(k), k.Label()})
	}
	templates, err := s.App.Templates(r.Ctx())
	if err != nil {
		return n, err
	}
	for _, t := range templates {
		n.Templates = append(n.Templates, [2]string{t.Key, t.Name})
	}
	people, err := s.App.Everyone(r.Ctx())
	for _, p := range people {
		n.Owners = append(n.Owners, p.Name)
	}
	return n, err
}

func (s *Screens) saveView(r *shell.Request) error { return s.changeViews(r, s.App.SaveView) }

func (s *Screens) dropView(r *shell.Request) error { return s.changeViews(r, s.App.DropView) }

func (s *Screens) changeViews(r *shell.Request, change func(context.Context, plan.Person, appsitemap.SavedView) ([]appsitemap.SavedView, error)) error {
	var v appsitemap.SavedView
	if err := r.Json(&v); err != nil {
		return err
	}
	views, err := change(r.Ctx(), r.Who, v)
	if err != nil {
		return err
	}
	r.JSON(http.StatusOK, map[string]any{"views": views})
	return nil
}

// actForm is one act as the outline's script sends it.
type actForm struct {
	Key       string   `json:"key"`
	Seen      int64    `json:"seen"`
	Do        string   `json:"do"`
	ID        string   `json:"id"`
	New       string   `json:"new"`
	IDs       []string `json:"ids"`
	Parent    string   `json:"parent"`
	After     string   `json:"after"`
	Last      bool     `json:"last"`
	Step      string   `json:"step"`
	Value     string   `json:"value"`
	Field     string   `json:"field"`
	Confirmed bool     `json:"confirmed"`

	Values map[string]string `json:"values"`
}

// actAnswer tells the script what changed.
type actAnswer struct {
	Version int64               `json:"version"`
	Edition int                 `json:"edition"`
	Reload  bool                `json:"reload,omitempty"`  // too much changed to be told
	Refused map[string]string   `json:"refused,omitempty"` // of several acts: what could not be done, by key
	Select  string              `json:"select,omitempty"`
	Put     []part.RowView      `json:"put,omitempty"`
	Drop    []string            `json:"drop,omitempty"`
	Order   map[string][]string `json:"order,omitempty"`
	Say     string              `json:"say,omitempty"`
	Confirm string              `json:"confirm,omitempty"`
}

func (f actForm) ask() appsitemap.PlanAct {
	return appsitemap.PlanAct{
		Key: f.Key, Seen: f.Seen, Do: f.Do, ID: f.ID, New: f.New, IDs: f.IDs, Parent: f.Parent, After: f.After, Last: f.Last,
		Step: sitemap.Step(f.Step), Value: f.Value, Field: f.Field, Values: f.Values, Confirmed: f.Confirmed,
	}
}

func (s *Screens) act(r *shell.Request) error {
	var f struct {
		actForm
		Acts []actForm `json:"acts"` // instead of one, several that add entries
	}
	if err := r.Json(&f); err != nil {
		return err
	}
	if len(f.Acts) > 0 {
		return s.several(r, f.Acts)
	}
	res, err := s.App.Plan(r.Ctx(), r.Who, f.ask())
	if err != nil {
		return err
	}
	if res.Confirm != nil {
		html, err := s.Set.Bytes("outline", "confirm", newConfirm(f.actForm, res))
		if err != nil {
			return err
		}
		r.JSON(http.StatusOK, actAnswer{Version: res.Version, Select: res.ID, Confirm: string(html)})
		return nil
	}
	return s.answerAct(r, res)
}

// mostActs is how many acts one request may bring.
const mostActs = 200

// several does acts one after another, each for itself, and answers once: what was
// refused is told by key.
func (s *Screens) several(r *shell.Request, acts []actForm) error {
	if len(acts) > mostActs {
		return plan.Refuse("", fmt.Sprintf("At most %d acts are taken at once.", mostActs))
	}
	all, refused := plan.PlanResult{}, map[string]string{}
	for _, f := range acts {
		if f.Do != "add" {
			refused[f.Key] = "This act has to be asked for by itself."
			continue
		}
		res, err := s.App.Plan(r.Ctx(), r.Who, f.ask())
		if err != nil {
			status, words := s.Word(err)
			if status >= http.StatusInternalServerError || r.Ctx().Err() != nil {
				return err // whoever sent them sends them again, under the same keys
			}
			refused[f.Key] = words
			continue
		}
		all.Patches = append(all.Patches, res.Patches...)
		all.ID, all.Label = res.ID, res.Label
	}
	if n := len(acts) - len(refused); n > 1 {
		all.Label = fmt.Sprintf("%d entries added", n)
	}
	a, err := s.actAnswer(r, all)
	if err != nil {
		return err
	}
	a.Refused = refused
	r.JSON(http.StatusOK, a)
	return nil
}

// since tells a window what others did to the plan since it looked.
func (s *Screens) since(r *shell.Request) error {
	version, _ := strconv.ParseInt(r.Query("version"), 10, 64)
	edition, _ := strconv.Atoi(r.Query("edition"))
	since, err := s.App.Since(r.Ctx(), r.Who, edition, version)
	if err != nil {
		return err
	}
	switch {
	case since.Version <= version:
		r.Status(http.StatusNoContent)
		return nil
	case since.All:
		r.JSON(http.StatusOK, actAnswer{Version: since.Version, Reload: true})
		return nil
	}
	a, err := s.actAnswer(r, plan.PlanResult{Patches: since.Patches})
	if err != nil {
		return err
	}
	a.Select, a.Say = "", strings.Join(since.Others, ". ")
	r.JSON(http.StatusOK, a)
	return nil
}

func (s *Screens) undo(r *shell.Request) error {
	res, err := s.App.Undo(r.Ctx(), r.Who)
	if err != nil {
		return err
	}
	return s.answerAct(r, res)
}

func (s *Screens) redo(r *shell.Request) error {
	res, err := s.App.Redo(r.Ctx(), r.Who)
	if err != nil {
		return err
	}
	return s.answerAct(r, res)
}

// answerAct sends the rows that an act changed: the entries themselves, what
// is below them, and their neighbours, whose marks may change.
func (s *Screens) answerAct(r *shell.Request, res plan.PlanResult) error {
	a, err := s.actAnswer(r, res)
	if err != nil {
		return err
	}
	r.JSON(http.StatusOK, a)
	return nil
}

func (s *Screens) actAnswer(r *shell.Request, res plan.PlanResult) (actAnswer, error) {
	o, err := s.App.Outline(r.Ctx())
	if err != nil {
		return actAnswer{}, err
	}
	m := part.NewRowMaker(o)
	t := o.Trees.Next
	a := actAnswer{Version: o.Site.PlanVersion, Edition: o.Site.Edition, Select: res.ID, Order: map[string][]string{}}
	if res.Label != "" {
		a.Say = part.UpperFirst(res.Label) + "."
	}
	put := map[int]bool{}
	for _, p := range res.Patches {
		i := t.Find(p.ID)
		if i == sitemap.None {
			a.Drop = append(a.Drop, p.ID)
		}
		for ; i != sitemap.None && i < t.End(t.Find(p.ID)); i++ {
			put[i] = true
		}
		for _, e := range []*sitemap.Entry{p.Before, p.After} {
			if e != nil {
				a.reorder(t, e.Parent, put)
			}
		}
	}
	for i := range t.Len() {
		if put[i] {
			a.Put = append(a.Put, m.Row(i))
		}
	}
	return a, nil
}

func (a *actAnswer) reorder(t *sitemap.Tree, parent string, put map[int]bool) {
	if _, done := a.Order[parent]; done {
		return
	}
	p := t.Home()
	if parent != "" {
		if p = t.Find(parent); p == sitemap.None {
			return
		}
	}
	ids := []string{}
	for c := range t.Children(p) {
		ids = append(ids, t.Ref(c).ID)
		put[c] = true
	}
	a.Order[parent] = ids
}

// confirmView is the consequences of an act that waits for confirmation.
type confirmView struct {
	Title, Verb, Confirm string
	OldLive, NewAddress  string
	Points               []point
	Act                  actForm
}

// confirmWords says for each act that asks first what is asked.
var confirmWords = map[string]struct{ verb, confirm string }{
	"move":     {"What this move does", "Move it"},
	"step":     {"What this move does", "Move it"},
	"remove":   {"What removing does", "Remove it"},
	"withdraw": {"What withdrawing does", "Withdraw it"},
	"slug":     {"What another slug does", "Change it"},
	"kind":     {"What turning it does", "Turn it"},
	"facts":    {"What this does", "Change it"},
	"mend":     {"What mending does", "Mend it"},
	"refer":    {"What making it a reference does", "Make it a reference"},
}

// point is one consequence; Mark is planned, fine or wrong.
type point struct{ Mark, Strong, Text string }

func newConfirm(f actForm, res plan.PlanResult) confirmView {
	of := res.Confirm
	words := confirmWords[f.Do]
	v := confirmView{Title: part.TitleIn(res.ID, res.Trees.Next), OldLive: of.OldLive, NewAddress: of.NewAddress, Act: f, Verb: words.verb, Confirm: words.confirm}
	if n := max(len(f.IDs), len(f.Values)); n > 1 {
		v.Title, v.Confirm = part.Count(n, "entry", "entries"), strings.TrimSuffix(v.Confirm, " it")+" them"
	}
	if of.Leaves() {
		v.Points = append(v.Points, point{"planned", part.Count(of.FromLive, "page leaves", "pages leave"), "the site with the next edition"})
	} else {
		v.Points = append(v.Points, point{"planned", part.Count(of.FromLive, "address changes", "addresses change"), "and " + part.Count(of.Redirects, "redirect is added", "redirects are added")})
	}
	if n := len(of.Undecided); n > 0 {
		v.Points = append(v.Points, point{"wrong", part.Count(n, "address", "addresses"), part.Verb(n, "then needs", "then need") + " a decision: where do the visitors belong?"})
	}
	switch {
	case res.Links == 0:
		v.Points = append(v.Points, point{"fine", "No link", "on other pages leads there"})
	case of.Leaves():
		v.Points = append(v.Points, point{"wrong", part.Count(res.Links, "link", "links"), "on " + part.Count(res.LinkPages, "page", "pages") + part.Verb(res.Links, " leads there and has to go", " lead there and have to go")})
	default:
		v.Points = append(v.Points, point{"fine", part.Count(res.Links, "link", "links"), "on " + part.Count(res.LinkPages, "page", "pages") + part.Verb(res.Links, " follows by itself", " follow by themselves")})
	}
	if len(of.TopAfter) > 0 {
		v.Points = append(v.Points, point{"planned", "Top menu", "shows " + strings.Join(of.TopAfter, ", ")})
	} else {
		v.Points = append(v.Points, point{"fine", "Top menu", "stays as it is"})
	}
	if of.SideMenus > 0 && !of.Leaves() {
		v.Points = append(v.Points, point{"planned", part.Count(of.SideMenus, "menu shows", "menus show"), "the change of place"})
	}
	v.reach(res.Reach)
	if len(res.Losing) > 0 {
		v.Points = append(v.Points, point{"wrong", strings.Join(res.Losing, ", "), part.Verb(len(res.Losing), "leads", "lead") + " to what goes; menu items to it have to be taken out before this is published"})
	}
	if of.NoOwner > 0 {
		v.Points = append(v.Points, point{"planned", part.Count(of.NoOwner, "page", "pages"), "among them without an owner"})
	}
	return v
}

// reach says what an act does to how far pages are from home.
func (v *confirmView) reach(m reach.Moved) {
	for _, p := range []struct {
		n    int
		mark string
		text string
	}{
		{m.Nearer, "fine", "nearer to home"}, {m.Farther, "planned", "farther from home"}, {m.Lost, "wrong", "out of reach: no click leads there"}, {m.Found, "fine", "into reach"},
	} {
		if p.n > 0 {
			v.Points = append(v.Points, point{p.mark, part.Count(p.n, "page comes", "pages come"), p.text})
		}
	}
}

// besideView is the facts of an entry.
type besideView struct {
	ID, Title, Kind, KindLabel, Template, Owner  string
	Live, Next, Slug, Short, Target, TargetName  string
	Source, Notes, Review, Topics, State, Wick   string
	Readership                                   string
	Changed                                      string
	SlugFixed, IsPage, IsHome, Unlisted, Moved   bool
	NeedsTarget, TargetIsPage, Withdrawn, InLive bool
	Changes                                      []string
	Links, LinkPages                             int
	LinkWords                                    string
	Crumbs                                       []string
	Kinds                                        []part.Option
	Templates                                    []part.Option
	Owners                                       []part.Option
	InMenu                                       string
	Sortable                                     bool // two or more are below it
	PageURL, Below                               string
	FindURL                                      string
	Pair                                         []pair
	Found                                        []lookAtView
	Clicks                                       string // from home
	Way                                          []part.WayStep
}

// lookAtView is what a check finds in an entry, with the words of its mend.
type lookAtView struct{ Rule, Message, Mend string }

func (s *Screens) beside(r *shell.Request) error {
	o, err := s.App.Outline(r.Ctx())
	if err != nil {
		return err
	}
	if n, err := strconv.Atoi(r.Query("many")); err == nil && n > 1 && o.Trees.Next.Len() > 0 {
		return s.besideMany(r, o, n)
	}
	i := o.Trees.Next.Find(r.Query("id"))
	if i == sitemap.None {
		return plan.ErrNotFound
	}
	links, pages, err := s.App.Links(r.Ctx(), r.Query("id"))
	if err != nil {
		return err
	}
	people, err := s.App.Everyone(r.Ctx())
	if err != nil {
		return err
	}
	templates, err := s.App.Templates(r.Ctx())
	if err != nil {
		return err
	}
	v := newBeside(o, i, people, templates)
	checked, err := s.App.Checks(r.Ctx(), r.Who)
	if err != nil {
		return err
	}
	for _, f := range checked.Found {
		if f.ID == v.ID {
			v.Found = append(v.Found, lookAtView{f.Rule, f.Message, checked.Mend(f)})
		}
	}
	if o.Trees.Next.Served(i) != "" {
		way, err := s.App.WayTo(r.Ctx(), r.Who, v.ID)
		if err != nil {
			return err
		}
		if v.Clicks = "no click leads here"; len(way) > 0 {
			v.Clicks = part.Count(len(way)-1, "click", "clicks") + " from home"
			v.Way = part.WayOf(o.Trees.Next, way)
		}
	}
	v.Links, v.LinkPages = links, pages
	if v.LinkWords = "no page links here"; links > 0 {
		v.LinkWords = part.Count(links, "link", "links") + " on " + part.Count(pages, "page", "pages")
	}
	return s.Set.Write(r.Writer, http.StatusOK, "outline", "beside", v)
}

// besideMany offers what can be done with several entries at once.
func (s *Screens) besideMany(r *shell.Request, o plan.Outline, n int) error {
	people, err := s.App.Everyone(r.Ctx())
	if err != nil {
		return err
	}
	templates, err := s.App.Templates(r.Ctx())
	if err != nil {
		return err
	}
	v := newBeside(o, 0, people, templates)
	v.Title = part.Count(n, "entry", "entries") + " chosen"
	v.Pair = pairOf(o.Trees.Next, r.QueryArray("of"))
	return s.Set.Write(r.Writer, http.StatusOK, "outline", "beside-many", v)
}

// pairOf offers, for two pages, to keep either of them.
func pairOf(t *sitemap.Tree, ids []string) []pair {
	if len(ids) != 2 {
		return nil
	}
	var out []pair
	for k, id := range ids {
		other := ids[1-k]
		if _, err := t.Join(id, other, false); err == nil {
			out = append(out, pair{id, other, part.TitleIn(id, t), address.Written(t.Address(t.Find(id))), urls.Merging(id, other)})
		}
	}
	return out
}

// pair is two pages, one of which could stay.
type pair struct{ Kept, Gone, Title, Address, MergeURL string }

func newBeside(o plan.Outline, i int, people []plan.Person, templates []content.Template) besideView {
	t := o.Trees.Next
	e := t.Ref(i)
	m := part.NewRowMaker(o)
	row := m.Row(i)
	v := besideView{
		ID: e.ID, Title: e.Title, Kind: string(e.Kind), KindLabel: e.Kind.Label(), Template: e.Template, Owner: e.Owner,
		Next: address.Written(t.Address(i)), Slug: e.Slug, Short: e.Short, Target: e.Target, Source: e.Source, Notes: e.Notes, Readership: e.Readership,
		Review: e.Review, Topics: e.Topics, State: row.State, Wick: row.Wick, SlugFixed: e.Fixed != "", IsPage: e.Kind.IsPage(),
		IsHome: i == t.Home(), Unlisted: e.Unlisted, Withdrawn: e.Withdrawn, PageURL: urls.Page(e.ID), FindURL: urls.Find,
		NeedsTarget: e.Kind == sitemap.Outside || e.Kind == sitemap.File || e.Kind == sitemap.Reference, TargetIsPage: e.Kind == sitemap.Reference,
	}
	if l := o.Trees.Live.Find(e.ID); l != sitemap.None {
		v.InLive = true
		v.Live = address.Written(o.Trees.Live.Served(l))
	}
	v.Moved = v.Live != "" && v.Live != v.Next
	if v.TargetIsPage {
		v.TargetName = part.TitleIn(e.Target, t)
	}
	for _, c := range change.Diff(o.Trees.Live, t) {
		if c.ID == e.ID {
			v.Changes = append(v.Changes, part.UpperFirst(change.Words(c, o.Trees.Live, t)))
		}
	}
	if p, ok := o.Trees.Planned[e.ID]; ok {
		v.Changed = part.PersonName(people, p.PersonID) + ", " + p.At.UTC().Format("2 January 2006")
	}
	v.Crumbs = t.Path(i)
	if n := t.End(i) - i - 1; n > 0 && !v.IsHome {
		v.Below = part.Count(n, "entry below", "entries below")
	}
	v.Sortable = t.End(i)-i > 2
	v.InMenu = part.InMenus(o.Trees, i)
	for _, k := range sitemap.Kinds() {
		v.Kinds = append(v.Kinds, part.Option{Value: string(k), Label: k.Label(), Chosen: k == e.Kind})
	}
	for _, tpl := range templates {
		v.Templates = append(v.Templates, part.Option{Value: tpl.Key, Label: tpl.Name, Chosen: tpl.Key == e.Template})
	}
	v.Owners = owners(people, e.Owner)
	return v
}

func owners(people []plan.Person, owner string) []part.Option {
	out := []part.Option{{Value: "", Label: "nobody", Chosen: owner == ""}}
	known := owner == ""
	for _, p := range people {
		out = append(out, part.Option{Value: p.Name, Label: p.Name, Chosen: p.Name == owner})
		known = known || p.Name == owner
	}
	if !known {
		out = append(out, part.Option{Value: owner, Label: owner + " (not a person here)", Chosen: true})
	}
	return out
}
