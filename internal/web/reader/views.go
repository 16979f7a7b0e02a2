package reader

import (
	"context"
	"fmt"
	"html"
	"html/template"
	"net/http"
	"strconv"
	"strings"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/app/reading"
	"candlepath/internal/core/address"
	"candlepath/internal/core/match"
	"candlepath/internal/core/menu"
	"candlepath/internal/core/setting"
	"candlepath/internal/core/shape"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/unanswered"
	"candlepath/internal/markup"
	"candlepath/internal/web/border"
	"candlepath/internal/web/urls"
)

// frame is what every reader page shows around its content.
type frame struct {
	Site    string
	Title   string
	Query   string
	Edition int
	Search  string // where the search form goes
	SignIn  string

	Index, Overview, New, Feed string
	Style, Mark, Foot          string
	Picture                    string // instead of Mark
	TrailList                  string // where there are any trails

	snap *view // nil: without menus
	page int
}

// TopMenu is the menu on top of every page.
func (f frame) TopMenu() (template.HTML, error) {
	if f.snap == nil {
		return "", nil
	}
	return f.snap.menu("top-menu", menu.Top, f.page, f.snap.menus.Top)
}

// FootMenu is the menu at the foot.
func (f frame) FootMenu() (template.HTML, error) {
	if f.snap == nil || !f.snap.menus.TakenOver(menu.Foot) {
		return "", nil
	}
	return f.snap.menu("foot-menu", menu.Foot, f.page, f.snap.menus.Foot)
}

func (snap *view) frame(title string, page int) frame {
	f := frame{
		Site: snap.Site.Name(), Title: title, Edition: snap.Site.Edition, Search: urls.Search, SignIn: urls.SignIn, Index: urls.Index, Overview: urls.Overview, New: urls.New, Feed: urls.Feed,
		Style: urls.Style + "?" + strings.TrimPrefix(snap.Site.Settings.Text(setting.Accent), "#"), Mark: snap.Site.Settings.Text(setting.Mark), Foot: snap.Site.Settings.Text(setting.Foot), snap: snap, page: page,
	}
	if snap.bare {
		f.Search, f.SignIn = "", ""
	}
	if setting.IsPicture(f.Mark) {
		f.Picture = f.Mark
	}
	if len(snap.trails) > 0 {
		f.TrailList = urls.TrailList
	}
	return f
}

// pageView is a page of the site.
type pageView struct {
	frame
	SideHead menu.Item
	Side     []menu.Item
	Crumbs   []menu.Item
	Heading  string
	Excerpt  string
	Body     template.HTML
	Outline  []markup.Heading
	Owner    string
	Changed  string
	ISO      string
	Below    []menu.Item // for pages without a text
	Empty    bool
	Trails   []trailView
}

// trailView is a trail as a page on it shows it.
type trailView struct {
	Title, About    string
	Step, Of        int
	Previous, After menu.Item // without a title: there is none
	Steps           []menu.Item
}

func (snap *view) newTrail(s shape.Standing) trailView {
	v := trailView{Title: s.Title, About: s.About, Step: s.At + 1, Of: len(s.Steps)}
	for k, i := range s.Steps {
		step := menu.Item{Title: snap.Tree.Ref(i).Title, Href: snap.menus.Href(i), Entry: i, Current: k == s.At}
		v.Steps = append(v.Steps, step)
		switch k {
		case s.At - 1:
			v.Previous = step
		case s.At + 1:
			v.After = step
		}
	}
	return v
}

// compose makes the bytes of a page: its stored article inside the site's
// frame, links resolved to the addresses of this edition.
func (s *Site) compose(ctx context.Context, snap *view, i int) (*composed, error) {
	e := snap.Tree.Ref(i)
	body, err := s.body(ctx, snap, e.ID)
	if err != nil {
		return nil, err
	}
	v, err := snap.pageView(i, body)
	if err != nil {
		return nil, err
	}
	out, err := s.set.Bytes("page", "layout", v)
	if err != nil {
		return nil, err
	}
	return newComposed(out, body.Reads), nil
}

// body loads an article, waiting a little for a database that restarts.
func (s *Site) body(ctx context.Context, snap *view, entry string) (b plan.LiveBody, err error) {
	for wait := 100 * time.Millisecond; ; wait *= 2 {
		if b, err = s.app.LiveBody(ctx, snap.LiveSite, entry, snap.Tree); err == nil || wait > 3*time.Second {
			return b, err
		}
		select {
		case <-ctx.Done():
			return b, ctx.Err()
		case <-time.After(wait):
		}
	}
}

func (snap *view) pageView(i int, body plan.LiveBody) (pageView, error) {
	e := snap.Tree.Ref(i)
	v := pageView{frame: snap.frame(e.Title, i), Heading: e.Title, Excerpt: body.Excerpt, Owner: e.Owner, Crumbs: snap.menus.Crumbs(i)}
	v.SideHead, v.Side = snap.menus.Side(i)
	for _, s := range shape.On(snap.trails, snap.Tree, i) {
		v.Trails = append(v.Trails, snap.newTrail(s))
	}
	if body.VersionID != "" {
		v.Body = template.HTML(markup.ResolveLinks(body.HTML, snap.href)) //nolint:gosec // markup made and cleaned it
		for _, h := range body.Outline {
			if h.Level == 2 {
				v.Outline = append(v.Outline, h)
			}
		}
		v.Changed, v.ISO = body.At.UTC().Format("2 January 2006"), body.At.UTC().Format(time.DateOnly)
	}
	if strings.TrimSpace(string(v.Body)) == "" {
		v.Below = snap.menus.Children(i)
		v.Empty = len(v.Below) == 0
	}
	return v, nil
}

// href is where a link to an entry leads in this edition.
func (snap *view) href(id string) (string, bool) {
	i := snap.Tree.Find(id)
	if i == sitemap.None {
		return "", false
	}
	href := snap.menus.Href(i)
	return html.EscapeString(href), href != ""
}

// lostView is the page for addresses that answer nothing, or nothing any more.
type lostView struct {
	frame
	Asked string
	Meant []menu.Item
	Gone  bool
	Says  string // what they are told of it
	Home  string

	Tell   string // where to tell whoever looks after it; empty: not from here
	Told   bool   // they were told
	Unborn bool   // no edition was published yet
}

func (s *Site) notFound(w http.ResponseWriter, r *http.Request, snap *view) {
	v := lostView{frame: snap.frame("Not found", sitemap.None), Asked: r.URL.Path, Home: "/", Unborn: snap.Site.Edition == 0}
	v.Meant = snap.meant(r.URL.Path)
	if unanswered.MayTell(v.Asked) && !v.Unborn {
		v.Tell = urls.Tell
	}
	s.lost(w, r, http.StatusNotFound, v)
}

// Tell tells those who look after a part of the site that a reader found no page at an address
// of it, and answers as the address does.
func (s *Site) Tell(w http.ResponseWriter, r *http.Request) {
	snap := s.viewOf(r)
	if snap == nil {
		s.unavailable(w)
		return
	}
	r.Body = http.MaxBytesReader(w, r.Body, 64<<10)
	normal, err := address.Normal(r.PostFormValue("address"))
	if err != nil || !unanswered.MayTell(normal) || snap.Table.ResolveNormal(normal, "").Code != http.StatusNotFound {
		s.notFound(w, r, snap)
		return
	}
	full := s.live.Load().full
	if full.Table.ResolveNormal(normal, "").Code == http.StatusNotFound { // nor for anybody else
		if err := s.app.TellMissing(r.Context(), full.Tree, normal); err != nil {
			s.log.Error("tell of an address", "id", border.ID(w), "error", err)
			s.unavailable(w)
			return
		}
	}
	v := lostView{frame: snap.frame("Not found", sitemap.None), Asked: normal, Home: "/", Told: true, Meant: snap.meant(normal)}
	s.lost(w, r, http.StatusOK, v)
}

func (s *Site) gone(w http.ResponseWriter, r *http.Request, snap *view, normal, says string) {
	v := lostView{frame: snap.frame("Gone", sitemap.None), Asked: normal, Gone: true, Says: says, Home: "/"}
	v.Meant = snap.meant(normal)
	s.lost(w, r, http.StatusGone, v)
}

func (snap *view) meant(path string) []menu.Item {
	var out []menu.Item
	for _, i := range match.Meant(snap.Tree, path, 5) {
		out = append(out, menu.Item{Title: snap.Tree.Ref(i).Title, Href: address.Written(snap.Tree.Served(i))})
	}
	return out
}

func (s *Site) lost(w http.ResponseWriter, r *http.Request, status int, v lostView) {
	body, err := s.set.Bytes("lost", "layout", v)
	if err != nil {
		s.log.Error("render", "id", border.ID(w), "error", err)
		http.Error(w, "Not found", status)
		return
	}
	h := w.Header()
	pageHeaders(h)
	h.Set("Content-Length", strconv.Itoa(len(body)))
	w.WriteHeader(status)
	if r.Method != http.MethodHead {
		_, _ = w.Write(body)
	} else if now, ok := w.(interface{ WriteHeaderNow() }); ok {
		now.WriteHeaderNow() // gin would put words of its own in place of no body
	}
}

// searchView is the result of a search.
type searchView struct {
	frame
	Asked string
	Hits  []hitView
	Count string
	More  bool
}

type hitView struct {
	Title   string
	Href    string
	Trail   string
	Snippet []piece
}

// piece is a run of a snippet, marked if it matches.
type piece struct {
	Text string
	Mark bool
}

const searchLimit = 30

// Search answers the search page.
func (s *Site) Search(w http.ResponseWriter, r *http.Request) {
	snap := s.viewOf(r)
	if snap == nil {
		s.unavailable(w)
		return
	}
	q := strings.TrimSpace(r.URL.Query().Get("q"))
	if len([]rune(q)) > 200 {
		q = string([]rune(q)[:200])
	}
	v := searchView{frame: snap.frame("Search", sitemap.None), Asked: q}
	v.Query = q
	if q != "" {
		hits, err := s.app.Search(r.Context(), snap.Site.Edition, q, snap.hidden(), searchLimit)
		if err != nil {
			s.log.Error("search", "id", border.ID(w), "error", err)
			s.unavailable(w)
			return
		}
		v.Hits = snap.hits(hits)
		v.More = len(hits) == searchLimit
		v.Count = fmt.Sprintf("%d pages", len(hits))
		if len(hits) == 1 {
			v.Count = "1 page"
		}
	}
	body, err := s.set.Bytes("search", "layout", v)
	if err != nil {
		s.log.Error("render", "id", border.ID(w), "error", err)
		s.unavailable(w)
		return
	}
	if snap.differs {
		w.Header()["Cache-Control"] = privately
	}
	pageHeaders(w.Header())
	_, _ = w.Write(body)
}

func (snap *view) hits(hits []reading.Hit) []hitView {
	out := make([]hitView, 0, len(hits))
	for _, h := range hits {
		i := snap.Tree.Find(h.EntryID)
		if i == sitemap.None || snap.Tree.Served(i) == "" {
			continue // hidden ones are left out already
		}
		path := snap.Tree.Path(i)
		out = append(out, hitView{
			Title: snap.Tree.Ref(i).Title, Href: address.Written(snap.Tree.Served(i)),
			Trail: strings.Join(path[:max(len(path)-1, 0)], " › "), Snippet: pieces(h.Snippet),
		})
	}
	return out
}

// pieces cuts a snippet at the marks that the database put around matches.
func pieces(s string) []piece {
	var out []piece
	for s != "" {
		before, rest, found := strings.Cut(s, "\x01")
		if before != "" {
			out = append(out, piece{Text: before})
		}
		if !found {
			break
		}
		in, after, _ := strings.Cut(rest, "\x02")
		out = append(out, piece{Text: in, Mark: true})
		s = after
	}
	return out
}

// Robots keeps crawlers out of an intranet.
func (s *Site) Robots(w http.ResponseWriter, _ *http.Request) {
	w.Header().Set("Content-Type", "text/plain; charset=utf-8")
	_, _ = w.Write([]byte("User-agent: *\nDisallow: /studio/\n"))
}
