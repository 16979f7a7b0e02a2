// Package reader is the reader site: the current edition, answered from memory.
//
// Each instance keeps the tree and the redirect table of the current edition,
// and the composed, gzipped bytes of the pages that were asked for. A new
// edition replaces all of it at once.
package reader

import (
	"context"
	"errors"
	"log/slog"
	"net/http"
	"sync"
	"sync/atomic"
	"time"

	"github.com/gin-gonic/gin"

	"candlepath/internal/app"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/address"
	"candlepath/internal/core/readership"
	"candlepath/internal/core/redirect"
	"candlepath/internal/web/render"
	"candlepath/web"
)

// Site answers readers.
type Site struct {
	app  *app.App
	set  *render.Set
	log  *slog.Logger
	who  func(*http.Request) readership.Reader
	live atomic.Pointer[edition]

	previewed [2]atomic.Pointer[edition] // of Next and of Live, as they were last looked at

	visits   visits
	misses   misses
	writing  sync.WaitGroup // of those who write visits down
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
func New(a *app.App, log *slog.Logger, who func(*http.Request) readership.Reader) (*Site, error) {
	set, err := render.Load(web.Files, "templates/layout/reader.html", "templates/screens/reader")
	if err != nil {
		return nil, err
	}
	return &Site{app: a, set: set, log: log, who: who, visits: visits{n: map[string]int{}}}, nil
}

// Screens lists the screens of the reader site, for a test of completeness.
func (s *Site) Screens() *render.Set { return s.set }

// Refresh takes up the current edition. Pages are composed when they are asked for;
// where nothing changed that stands around them, those with the same text are kept.
func (s *Site) Refresh(ctx context.Context) error {
	live, err := s.app.LoadLive(ctx)
	if err != nil {
		return err
	}
	old := s.live.Load()
	if old != nil && (old.full.Site.Edition > live.Site.Edition || old.same(live.Site)) {
		return nil // a later one was taken up meanwhile, or this one: what was composed of it is kept
	}
	e, err := newEdition(live, s.set, old)
	if err != nil {
		return err
	}
	if err := e.public.warm(); err != nil {
		return err
	}
	s.live.Store(e)
	if old != nil {
		s.writing.Go(func() { s.writeUses(context.WithoutCancel(ctx), old.uses) })
	}
	return nil
}

// Ready tells whether there is an edition to answer from.
func (s *Site) Ready() bool { return s.live.Load() != nil }

// viewOf gives the edition as the reader of a request may see it; nil before
// there is one.
func (s *Site) viewOf(r *http.Request) *view {
	e := s.live.Load()
	if e == nil {
		return nil
	}
	if !e.until.IsZero() && time.Now().After(e.until) {
		e = s.newDay(e)
	}
	if !e.restricted {
		return e.public
	}
	return e.viewOf(s.who(r))
}

// newDay takes the edition up anew on a day on which a page goes out as news.
func (s *Site) newDay(was *edition) *edition {
	e, err := newEdition(was.full, s.set, nil)
	if err != nil {
		s.log.Error("take up edition on a new day", "error", err)
		return was
	}
	if s.live.CompareAndSwap(was, e) {
		return e
	}
	return s.live.Load()
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
	p := snap.cache.get(i)
	if p == nil {
		var err error
		if p, err = s.compose(r.Context(), snap, i); err != nil {
			if !errors.Is(err, context.Canceled) {
				s.log.Error("compose page", "page", snap.Tree.Ref(i).ID, "error", err)
			}
			s.unavailable(w)
			return
		}
		s.composed.Add(1)
		snap.cache.put(i, p)
	}
	p.serve(w, r)
	if r.Method == http.MethodGet {
		s.count(snap.Tree.Ref(i).ID)
	}
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

// Watch takes up editions as they are announced, until the context ends.
func (s *Site) Watch(ctx context.Context, listen func(context.Context, func()) error) {
	for ctx.Err() == nil {
		err := listen(ctx, func() {
			if err := s.Refresh(ctx); err != nil && ctx.Err() == nil && !errors.Is(err, plan.ErrNotFound) {
				s.log.Error("take up edition", "error", err)
			}
		})
		if ctx.Err() != nil {
			return
		}
		s.log.Warn("announcements interrupted; trying again", "error", err)
		select {
		case <-ctx.Done():
		case <-time.After(500 * time.Millisecond):
		}
	}
}
