package sitemap

import (
	"net/http"
	"strconv"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/address"
	"candlepath/internal/core/change"
	"candlepath/internal/core/content"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

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
