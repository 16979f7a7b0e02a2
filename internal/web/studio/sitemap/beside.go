package sitemap

import (
	"net/http"
	"strconv"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/address"
	"candlepath/internal/core/change"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

// besideView is the facts of an entry.
type besideView struct {
	ID, Title, KindLabel, Owner, State, Wick string
	Live, Next                               string
	Changed                                  string
	IsPage, IsHome, Moved, Withdrawn, InLive bool
	Facts                                    []factView
	Changes                                  []string
	Links, LinkPages                         int
	LinkWords                                string
	Crumbs                                   []string
	InMenu                                   string
	Sortable                                 bool // two or more are below it
	PageURL, NewURL, Below                   string
	AddressesURL                             string // every address it ever had
	SendURL, ScheduleURL                     string // what is planned here, for review
	FindURL                                  string
	Pair                                     []pair
	Found                                    []lookAtView
	Clicks                                   string // from home
	Way                                      []part.WayStep
}

// lookAtView is what a check finds in an entry, with the words of its mend.
type lookAtView struct{ Rule, Message, Mend string }

// newBelow is the form of a new page below an entry; empty where none can stand.
func newBelow(e *sitemap.Entry) string {
	if !e.Kind.HoldsChildren() {
		return ""
	}
	return urls.NewPageBelow(e.ID)
}

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
	people, choices, err := s.choices(r, o.Trees.Next)
	if err != nil {
		return err
	}
	v := newBeside(o, i, people)
	v.Facts = factsOf(o.Trees.Next, i, choices)
	checked, err := s.App.Checks(r.Ctx(), r.Who)
	if err != nil {
		return err
	}
	for _, f := range checked.Found {
		if f.ID == v.ID {
			v.Found = append(v.Found, lookAtView{string(f.Rule), f.Message, checked.Mend(f)})
		}
	}
	if o.Trees.Next.Served(i) != "" {
		way, err := s.App.WayTo(r.Ctx(), r.Who, v.ID)
		if err != nil {
			return err
		}
		if v.Clicks = "unreachable"; len(way) > 0 {
			v.Clicks = part.Count(len(way)-1, "click", "clicks") + " from home"
			v.Way = part.WayOf(o.Trees.Next, way)
		}
	}
	v.Links, v.LinkPages = links, pages
	if v.LinkWords = "no links"; links > 0 {
		v.LinkWords = part.Count(links, "link", "links") + " on " + part.Count(pages, "page", "pages")
	}
	return s.Set.Write(r.Writer, http.StatusOK, "outline", "beside", v)
}

// choices loads what can be chosen in the fields of entries.
func (s *Screens) choices(r *shell.Request, t *sitemap.Tree) ([]plan.Person, map[string][]part.Option, error) {
	people, err := s.App.Everyone(r.Ctx())
	if err != nil {
		return nil, nil, err
	}
	templates, err := s.App.Templates(r.Ctx())
	return people, choices(t, people, templates), err
}

// besideMany offers what can be done with several entries at once.
func (s *Screens) besideMany(r *shell.Request, o plan.Outline, n int) error {
	_, choices, err := s.choices(r, o.Trees.Next)
	if err != nil {
		return err
	}
	v := besideView{Facts: factsOfMany(choices)}
	v.Title = part.Count(n, "entry", "entries") + " selected"
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

func newBeside(o plan.Outline, i int, people []plan.Person) besideView {
	t := o.Trees.Next
	e := t.Ref(i)
	m := part.NewRowMaker(o)
	row := m.Row(i)
	v := besideView{
		ID: e.ID, Title: e.Title, KindLabel: e.Kind.Label(), Owner: e.Owner, Next: address.Written(t.Address(i)), State: row.State, Wick: row.Wick,
		IsPage: e.Kind.IsPage(), IsHome: i == t.Home(), Withdrawn: e.Withdrawn, PageURL: urls.Page(e.ID), NewURL: newBelow(e), FindURL: urls.Find, AddressesURL: urls.AddressesOfPage(e.ID), SendURL: urls.ReviewBelow(e.ID), ScheduleURL: urls.ScheduleAt("", "", "", e.ID, ""),
	}
	if l := o.Trees.Live.Find(e.ID); l != sitemap.None {
		v.InLive = true
		v.Live = address.Written(o.Trees.Live.Served(l))
	}
	v.Moved = v.Live != "" && v.Live != v.Next
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
	return v
}
