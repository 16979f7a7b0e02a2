package reader

import (
	"context"
	"encoding/xml"
	"fmt"
	"io"
	"net/http"
	"slices"
	"strings"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/app/reading"
	"candlepath/internal/core/address"
	"candlepath/internal/core/menu"
	"candlepath/internal/core/setting"
	"candlepath/internal/core/shape"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/web/border"
	"candlepath/internal/web/urls"
)

type indexView struct {
	frame
	Letters []menu.Letter
}

// Index serves all pages from A to Z.
func (s *Site) Index(w http.ResponseWriter, r *http.Request) {
	s.list(w, r, "index")
}

func (v *view) indexView() indexView {
	return indexView{v.frame("A–Z", sitemap.None), v.menus.Index()}
}

type overviewView struct {
	frame
	Items []menu.Item
}

const overviewLevels = 4

// Overview serves the site as a tree.
func (s *Site) Overview(w http.ResponseWriter, r *http.Request) {
	s.list(w, r, "overview")
}

func (v *view) overviewView() overviewView {
	return overviewView{v.frame("Overview", sitemap.None), v.menus.Overview(overviewLevels)}
}

type trailsView struct {
	frame
	List []trailView
}

// Trails serves the trails that a reader may follow.
func (s *Site) Trails(w http.ResponseWriter, r *http.Request) {
	s.list(w, r, "trails")
}

func (v *view) trailsView() trailsView {
	out := trailsView{frame: v.frame("Trails", sitemap.None)}
	for _, tr := range v.trails {
		out.List = append(out.List, v.newTrail(shape.Standing{Named: tr, Steps: tr.Steps(v.Tree), At: -1}))
	}
	return out
}

type newView struct {
	frame
	Announced []announcedPage
	Days      []dayOfNews
}

// dayOfNews is what the editions of a day brought.
type dayOfNews struct {
	Date, ISO string
	Notes     []string // what readers are told of its editions
	Pages     []pieceOfNews
}

type pieceOfNews struct{ Title, Href, Kind, Within string }

// New serves what is new and what changed of late.
func (s *Site) New(w http.ResponseWriter, r *http.Request) {
	s.list(w, r, "new")
}

func (snap *view) newView() newView {
	v := newView{frame: snap.frame("New and changed", sitemap.None)}
	snap.news(func(i int, n newsAt) {
		if day := n.At.UTC(); len(v.Days) == 0 || v.Days[len(v.Days)-1].ISO != day.Format(time.DateOnly) {
			v.Days = append(v.Days, dayOfNews{Date: day.Format("2 January 2006"), ISO: day.Format(time.DateOnly)})
		}
		piece := pieceOfNews{Title: snap.Tree.Ref(i).Title, Href: address.Written(snap.Tree.Served(i)), Kind: n.Kind}
		if p := snap.Tree.Parent(i); p != sitemap.None && p != snap.Tree.Home() {
			piece.Within = snap.Tree.Ref(p).Title
		}
		day := &v.Days[len(v.Days)-1]
		day.Pages = append(day.Pages, piece)
	})
	v.withNotes(snap.Notes)
	snap.announced(func(i int, day time.Time) {
		if len(v.Announced) < mostAnnounced {
			v.Announced = append(v.Announced, announcedPage{snap.Tree.Ref(i).Title, address.Written(snap.Tree.Served(i)), day.Format("2 January 2006"), day.Format(time.DateOnly)})
		}
	})
	return v
}

type announcedPage struct{ Title, Href, Date, ISO string }

const mostAnnounced = 20

// announced visits the pages that are news by now, the latest first, as far as this reader may
// know of them.
func (snap *view) announced(visit func(i int, day time.Time)) {
	for _, a := range snap.Announced {
		day, err := time.Parse(time.DateOnly, a.Day)
		if i := snap.Tree.Find(a.EntryID); err == nil && !day.After(time.Now()) && i != sitemap.None && snap.Tree.Served(i) != "" && snap.menus.Shown(i) {
			visit(i, day)
		}
	}
}

// withNotes puts what readers are told of editions to their days.
func (v *newView) withNotes(notes []reading.Note) {
	for _, n := range notes {
		at := n.At.UTC()
		day := dayOfNews{Date: at.Format("2 January 2006"), ISO: at.Format(time.DateOnly)}
		i, known := slices.BinarySearchFunc(v.Days, day.ISO, func(d dayOfNews, iso string) int { return strings.Compare(iso, d.ISO) })
		if !known {
			v.Days = slices.Insert(v.Days, i, day)
		}
		v.Days[i].Notes = append(v.Days[i].Notes, n.Words)
	}
}

// newsAt is one piece of news.
type newsAt struct {
	Kind    string
	Edition int
	At      time.Time
}

// news visits what is new, the newest first, as far as this reader may know of
// it.
func (snap *view) news(visit func(i int, n newsAt)) {
	for _, n := range snap.News {
		if i := snap.Tree.Find(n.EntryID); i != sitemap.None && snap.Tree.Served(i) != "" && snap.menus.Shown(i) {
			visit(i, newsAt{string(n.Kind), n.Edition, n.At})
		}
	}
}

// list serves a list that is made once for an edition and its readers.
func (s *Site) list(w http.ResponseWriter, r *http.Request, screen string) {
	snap := s.viewOf(r)
	if snap == nil {
		s.unavailable(w)
		return
	}
	p, err := s.cached(r.Context(), snap, listKey(screen), func(context.Context) (*composed, error) {
		body, err := s.set.Bytes(screen, "layout", snap.listView(screen))
		reads := plan.Reads{}
		if screen == "new" { // which tells of announced pages up to today
			reads = plan.Reads{News: true, Day: s.app.Today()}
		}
		return newComposed(body, reads), err
	})
	if err != nil {
		s.log.Error("render", "screen", screen, "id", border.ID(w), "error", err)
		s.unavailable(w)
		return
	}
	if snap.differs {
		w.Header()["Cache-Control"] = privately
	}
	p.serve(w, r)
}

// Style serves the accent colour of the site.
func (s *Site) Style(w http.ResponseWriter, r *http.Request) {
	snap := s.viewOf(r)
	if snap == nil {
		s.unavailable(w)
		return
	}
	h := w.Header()
	pageHeaders(h)
	h["Content-Type"] = []string{"text/css; charset=utf-8"}
	h["Cache-Control"] = []string{"max-age=86400"} // its address changes with the colour
	_, _ = io.WriteString(w, accentOf(snap.Site.Settings.Text(setting.Accent)))
}

// accentOf is the style of a colour.
func accentOf(colour string) string { return fmt.Sprintf(":root{--color-leaf:%s}\n", colour) }

// The Atom feed (RFC 4287).
type feed struct {
	XMLName xml.Name    `xml:"http://www.w3.org/2005/Atom feed"`
	Title   string      `xml:"title"`
	ID      string      `xml:"id"`
	Updated string      `xml:"updated"`
	Author  string      `xml:"author>name"`
	Links   []feedLink  `xml:"link"`
	Entries []feedEntry `xml:"entry"`
}

type feedLink struct {
	Rel  string `xml:"rel,attr,omitempty"`
	Href string `xml:"href,attr"`
}

type feedEntry struct {
	Title   string   `xml:"title"`
	ID      string   `xml:"id"`
	Updated string   `xml:"updated"`
	Link    feedLink `xml:"link"`
	Summary string   `xml:"summary"`

	Category *feedCategory `xml:"category,omitempty"`
}

type feedCategory struct {
	Term string `xml:"term,attr"`
}

const feedEntries = 50

// Feed serves what is new as a feed.
func (s *Site) Feed(w http.ResponseWriter, r *http.Request) {
	snap := s.viewOf(r)
	if snap == nil {
		s.unavailable(w)
		return
	}
	body, err := xml.Marshal(snap.feed(urls.Base(r, snap.Site.Hosts)))
	if err != nil {
		s.log.Error("feed", "id", border.ID(w), "error", err)
		s.unavailable(w)
		return
	}
	h := w.Header()
	pageHeaders(h)
	if snap.differs {
		h["Cache-Control"] = privately
	}
	h["Content-Type"] = []string{"application/atom+xml; charset=utf-8"}
	_, _ = w.Write(append([]byte(xml.Header), body...))
}

// feed lists what is new, with addresses below a base.
func (snap *view) feed(base string) feed {
	f := feed{
		Title: snap.Site.Name(), ID: base + urls.Feed, Updated: time.Unix(0, 0).UTC().Format(time.RFC3339), Author: snap.Site.Name(),
		Links: []feedLink{{"self", base + urls.Feed}, {"alternate", base + urls.New}},
	}
	for _, n := range snap.Notes {
		f.Entries = append(f.Entries, feedEntry{
			Title: snap.Site.Name() + ", edition " + fmt.Sprint(n.Edition), ID: base + urls.New + "#edition-" + fmt.Sprint(n.Edition), Updated: n.At.UTC().Format(time.RFC3339),
			Link: feedLink{Href: base + urls.New}, Summary: n.Words,
		})
	}
	snap.announced(func(i int, day time.Time) {
		e := snap.Tree.Ref(i)
		f.Entries = append(f.Entries, feedEntry{
			Title: e.Title, ID: fmt.Sprintf("urn:uuid:%s#news-%s", e.ID, day.Format(time.DateOnly)), Updated: day.Format(time.RFC3339), Link: feedLink{Href: base + address.Written(snap.Tree.Served(i))},
			Summary: "News", Category: &feedCategory{"news"},
		})
	})
	snap.news(func(i int, n newsAt) {
		at := n.At.UTC().Format(time.RFC3339)
		if len(f.Entries) < feedEntries {
			e := snap.Tree.Ref(i)
			f.Entries = append(f.Entries, feedEntry{
				Title: e.Title, ID: fmt.Sprintf("urn:uuid:%s#%d", e.ID, n.Edition), Updated: at, Link: feedLink{Href: base + address.Written(snap.Tree.Served(i))}, Summary: upper(n.Kind) + " in edition " + fmt.Sprint(n.Edition),
			})
		}
	})
	slices.SortStableFunc(f.Entries, func(a, b feedEntry) int { return strings.Compare(b.Updated, a.Updated) })
	if len(f.Entries) > 0 {
		f.Updated = f.Entries[0].Updated
	}
	return f
}

// upper begins a word of ours with a capital.
func upper(s string) string { return string(s[0]-'a'+'A') + s[1:] }
