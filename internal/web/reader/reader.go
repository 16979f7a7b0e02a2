// Package reader is the reader site: the current edition, answered from memory.
//
// Each instance keeps the tree and the redirect table of the current edition,
// and the composed, gzipped bytes of the pages that were asked for. A new
// edition replaces all of it at once.
package reader

import (
	"context"
	"log/slog"
	"net/http"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"github.com/gin-gonic/gin"

	"candlepath/internal/app"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/address"
	"candlepath/internal/core/readership"
	"candlepath/internal/core/redirect"
	"candlepath/internal/platform/background"
	"candlepath/internal/web/border"
	"candlepath/internal/web/render"
	"candlepath/web"
)

// Site answers readers.
type Site struct {
	app  *app.App
	set  *render.Set
	log  *slog.Logger
	who  func(*http.Request) readership.Reader
	work *background.Group
	live atomic.Pointer[edition]

	taking sync.Mutex   // one edition is taken up at a time
	heard  atomic.Int64 // the newest edition that is known of
	behind atomic.Int64 // when an edition was heard of that is not served yet, in Unix milliseconds; 0: none

	previewed *plan.Cache[*edition]
	shared    *plan.Cache[*view]

	visits   visits
	misses   misses
	composed atomic.Uint64
}

// Composed tells how many pages were composed since the instance began.
func (s *Site) Composed() uint64 { return s.composed.Load() }

// Edition is the number of the edition that readers get; 0 before there is one.
func (s *Site) Edition() int {
	if e := s.live.Load(); e != nil {
		return e.full.Site.Edition
	}
	return 0
}

// New makes the reader site; Refresh must succeed before it answers. who names
// the reader of a request, the zero Reader if nobody signed in; it is asked only
// where an edition holds something that is not for everybody.
func New(a *app.App, log *slog.Logger, work *background.Group, who func(*http.Request) readership.Reader) (*Site, error) {
	set, err := render.Load(web.Files, "templates/layout/reader.html", "templates/screens/reader")
	if err != nil {
		return nil, err
	}
	return &Site{
		app: a, set: set, log: log, work: work, who: who,
		previewed: plan.NewCache[*edition](plan.CachedPreview), shared: plan.NewCache[*view](plan.CachedSharedPreview),
		visits: visits{n: map[string]int{}},
	}, nil
}

// Screens lists the screens of the reader site, for a test of completeness.
func (s *Site) Screens() *render.Set { return s.set }

// Ready tells whether there is an edition to answer from.
func (s *Site) Ready() bool { return s.live.Load() != nil }

// viewOf gives the edition as the reader of a request may see it; nil before
// there is one.
func (s *Site) viewOf(r *http.Request) *view {
	e := s.live.Load()
	if e == nil {
		return nil
	}
	if !e.restricted {
		return e.public
	}
	return e.viewOf(s.who(r))
}

const pagePolicy = "default-src 'none'; style-src 'self'; script-src 'self'; img-src 'self'; font-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'"

// Header values are shared, so that a page costs no allocation for them.
var (
	htmlType   = []string{"text/html; charset=utf-8"}
	noCache    = []string{"no-cache"}
	privately  = []string{"private, no-cache"}
	vary       = []string{"Accept-Encoding"}
	policy     = []string{pagePolicy}
	noSniff    = []string{"nosniff"}
	gzipCoding = []string{"gzip"}
	noReferrer = []string{"same-origin"}
)

func pageHeaders(h http.Header) {
	h["Content-Type"] = htmlType
	if h["Cache-Control"] == nil {
		h["Cache-Control"] = noCache
	}
	h["Content-Security-Policy"] = policy
	h["X-Content-Type-Options"] = noSniff
	h["Referrer-Policy"] = noReferrer
}

// Serve answers everything that is not the studio's.
func (s *Site) Serve(c *gin.Context) {
	w, r := c.Writer, c.Request
	snap := s.viewOf(r)
	if snap == nil {
		s.unavailable(w)
		return
	}
	if r.Method != http.MethodGet && r.Method != http.MethodHead {
		w.Header().Set("Allow", "GET, HEAD")
		http.Error(w, "This address can only be read.", http.StatusMethodNotAllowed)
		return
	}
	if snap.differs {
		w.Header()["Cache-Control"] = privately
	}
	path := address.PathOf(r.URL)
	normal, err := address.Normal(path)
	if err != nil {
		s.notFound(w, r, snap)
		return
	}
	if written := address.Written(normal); strings.HasPrefix(normal, "/files/") && written != path {
		moved(w, withQuery(written, r.URL.RawQuery), http.StatusMovedPermanently)
		return
	}
	asked, old := normal, snap.oldHost(r)
	if old != "" {
		asked = address.OnHost(old, normal)
	}
	a := snap.Table.ResolveNormal(asked, r.URL.RawQuery)
	if row, by := a.Row(); by && r.Method == http.MethodGet {
		snap.uses.add(row)
	}
	if old != "" && onOldHost(w, r, snap, normal, a) {
		return
	}
	switch {
	case a.By == redirect.ByPage:
		if written := address.Written(normal); written != path {
			moved(w, withQuery(written, r.URL.RawQuery), http.StatusMovedPermanently)
			return
		}
		s.page(w, r, snap, a.Page)
	case a.Code == redirect.Gone:
		s.gone(w, r, snap, normal, a.Says)
	case a.Code == http.StatusNotFound:
		s.missed(r, normal)
		s.notFound(w, r, snap)
	default:
		moved(w, a.Location, a.Code)
	}
}

func withQuery(path, query string) string {
	if query == "" {
		return path
	}
	return path + "?" + query
}

// moved sends a redirect. Browsers keep a plain 301 for ever, and a page may
// come back, so they are told to ask again.
func moved(w http.ResponseWriter, location string, code int) {
	h := w.Header()
	h["Location"] = []string{location}
	if h["Cache-Control"] == nil {
		h["Cache-Control"] = noCache
	}
	w.WriteHeader(code)
}

func (s *Site) page(w http.ResponseWriter, r *http.Request, snap *view, i int) {
	id := snap.Tree.Ref(i).ID
	p, err := s.cached(r.Context(), snap, id, func(ctx context.Context) (*composed, error) { return s.compose(ctx, snap, i) })
	if err != nil {
		s.log.Error("compose page", "page", id, "id", border.ID(w), "error", err)
		s.unavailable(w)
		return
	}
	p.serve(w, r)
	if r.Method == http.MethodGet {
		s.count(id)
	}
}

// longestCompose is how long a page that is not at hand may take.
const longestCompose = 10 * time.Second

// cached gives a composed page of a view from its cache, or composes it once for all who ask. One that
// shows visits or news holds as long as the day.
func (s *Site) cached(ctx context.Context, v *view, key string, compose func(context.Context) (*composed, error)) (*composed, error) {
	if p := v.cache.get(key); p != nil && (p.reads.Day == "" || p.reads.Day == s.app.Today()) {
		return p, nil
	}
	made, err, _ := v.composing.Do(key, func() (any, error) {
		alone, stop := context.WithTimeout(context.WithoutCancel(ctx), longestCompose)
		defer stop()
		p, err := compose(alone)
		if err == nil {
			s.composed.Add(1)
			v.cache.put(key, p)
		}
		return p, err
	})
	p, _ := made.(*composed)
	return p, err
}

func (s *Site) unavailable(w http.ResponseWriter) {
	if s.live.Load() == nil {
		if site, err := s.app.SiteNow(context.Background()); err == nil && site.ID == "" {
			w.Header().Set("Cache-Control", "no-store")
			http.Error(w, "There is no site here yet. Whoever runs the program can set one up at /studio/begin.", http.StatusServiceUnavailable)
			return
		}
	}
	w.Header().Set("Retry-After", "2")
	w.Header().Set("Cache-Control", "no-store")
	http.Error(w, "This page cannot be shown for a moment. Please try again.", http.StatusServiceUnavailable)
}
