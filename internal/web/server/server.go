// Package server puts the studio and the reader site behind one handler.
package server

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"runtime/debug"
	"strings"
	"time"

	"github.com/alexedwards/scs/pgxstore"
	"github.com/alexedwards/scs/v2"
	"github.com/gin-gonic/gin"
	"github.com/jackc/pgx/v5/pgxpool"

	"candlepath/internal/app"
	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/match"
	"candlepath/internal/core/readership"
	"candlepath/internal/core/sheet"
	"candlepath/internal/files"
	"candlepath/internal/jobs"
	"candlepath/internal/markup"
	"candlepath/internal/platform/background"
	"candlepath/internal/platform/objects"
	"candlepath/internal/store"
	"candlepath/internal/web/border"
	"candlepath/internal/web/reader"
	"candlepath/internal/web/render"
	"candlepath/internal/web/studio"
	"candlepath/internal/web/urls"
)

// Options of an instance. The zero value trusts nobody and logs nothing.
type Options struct {
	Log     *slog.Logger
	Proxies border.Proxies // who may say for whom they pass a request on
	Demo    bool           // with a page that shows the parts of all screens
	Objects plan.Objects   // what files hold; nil: memory
}

// Server is a running instance without its listener.
type Server struct {
	App     *app.App
	Handler http.Handler
	Reader  *reader.Site
	Metrics http.Handler // for an address of its own
	// SetupCode is what whoever makes the first site has to know; empty where there
	// is a site.
	SetupCode string
	// Windows counts the connections over which windows of the studio wait for news.
	Windows func() int
	// EndStreams ends the connections of windows that wait for news.
	EndStreams func()

	log     *slog.Logger
	store   *store.Store
	readers *readers
	metrics *metrics
	proxies border.Proxies
	cancel  context.CancelFunc
	work    background.Group

	neighbours neighbours
	jobs       *jobs.Runner
}

// New makes an instance over a migrated database. Close ends what it started.
func New(ctx context.Context, pool *pgxpool.Pool, o Options) (*Server, error) {
	if o.Log == nil {
		o.Log = slog.New(slog.DiscardHandler)
	}
	st, err := store.Open(pool)
	if err != nil {
		return nil, err
	}
	if o.Objects == nil {
		if o.Objects, err = objects.Open(ctx, "mem://"); err != nil {
			return nil, err
		}
	}
	a := app.New(st, markup.New(), o.Objects, func() time.Time { return time.Now().UTC().Truncate(time.Microsecond) })
	s := &Server{App: a, log: o.Log, store: st, proxies: o.Proxies}
	s.work.Log = o.Log
	sessions := newSessions(pool)
	s.readers = newReaders(a, sessions)
	if s.Reader, err = reader.New(a, o.Log, &s.work, s.readers.of); err != nil {
		return nil, err
	}
	s.metrics = newMetrics(pool, a, s.Reader, &s.work)
	if err := s.expectFirstSite(ctx); err != nil {
		return nil, err
	}
	ctx, s.cancel = context.WithCancel(ctx)
	desk, err := studio.New(studio.Config{
		App: a, Sessions: sessions, Log: o.Log, Work: &s.work, Forget: s.readers.forget, SetupCode: s.SetupCode, Demo: o.Demo,
		Published: s.Reader.TakeUp,
		Preview:   s.Reader.Preview, Show: s.Reader.ShowPage,
	})
	if err != nil {
		s.cancel()
		return nil, err
	}
	if err := errors.Join(a.MoveFiles(ctx), s.tellNeighbours(ctx)); err != nil {
		s.cancel()
		return nil, err
	}
	if err := s.Reader.Refresh(ctx); err != nil && !errors.Is(err, plan.ErrNotFound) {
		s.cancel()
		return nil, err
	}
	s.work.Keep(ctx, "listen to announcements", func(ctx context.Context) error {
		err := st.Listen(ctx, func(what string) { s.announced(ctx, what) }, func(what string) { desk.Live().Announced(ctx, what) })
		if ctx.Err() == nil {
			o.Log.Warn("announcements interrupted; trying again", "error", err)
		}
		return err
	})
	s.work.Keep(ctx, "follow editions", s.Reader.Follow)
	s.work.Keep(ctx, "tell of windows", desk.Live().Watch)
	s.EndStreams, s.Windows = desk.Live().End, desk.Live().Connections
	s.jobs, err = jobs.Start(context.WithoutCancel(ctx), pool, jobs.Options{App: a, Read: ReadSheet, OpenOld: OpenOldSite, ReadOlder: ReadOlder, WriteExport: s.writeExport, Log: o.Log, Work: &s.work})
	if err != nil {
		s.Close()
		return nil, err
	}
	s.Handler, s.Metrics = s.handler(desk, sessions), s.metrics.handler
	return s, nil
}

// announced does what an announcement of the database asks for; see store.Listen.
func (s *Server) announced(ctx context.Context, what string) {
	if what == "visits" {
		s.work.Go("write visits", func() error { return s.Reader.WriteVisits(ctx) })
		return
	}
	s.readers.forget()
	s.Reader.TakeUp(ctx)
}

// writeExport writes a state of the site as a .zip.
func (s *Server) writeExport(ctx context.Context, st plan.SiteState, as string, out editions.ExportOutput) error {
	z := files.NewFolderZip(out.To)
	_, err := s.Reader.Export(ctx, reader.Export{State: st, As: as, Put: z.Put, Progress: out.Progress, Merge: z.Merge, Parts: out.Parts})
	return errors.Join(err, z.Close())
}

// expectFirstSite makes up the code by which the first site is made, where there
// is none.
func (s *Server) expectFirstSite(ctx context.Context) error {
	site, err := s.App.SiteNow(ctx)
	if err == nil && site.ID == "" {
		s.SetupCode = strings.ToLower(rand.Text()[:12])
	}
	return err
}

// longestStop is how long jobs are waited for when the program ends; what is not
// done by then goes on when it begins again.
const longestStop = time.Second

// Close stops the background work, waits for it, and writes down the last visits.
func (s *Server) Close() {
	s.cancel()
	ctx, cancel := context.WithTimeout(context.Background(), longestStop)
	defer cancel()
	if s.jobs != nil {
		if err := s.jobs.Stop(ctx); err != nil {
			s.log.Warn("jobs did not end", "error", err)
		}
	}
	s.work.Wait()
	s.Reader.Close(ctx)
}

// ReadOlder reads the list of an older site.
func ReadOlder(name string, r io.Reader) (*match.List, error) {
	return files.ReadOlder(name, r, files.Options{})
}

// ReadSheet reads a brought-in file.
func ReadSheet(ctx context.Context, name string, r io.Reader, progress func(int)) (*sheet.Sheet, error) {
	return files.ReadSitemap(name, r, files.Options{Context: ctx, Progress: progress})
}

// OpenOldSite opens a brought-in archive of an older site.
func OpenOldSite(data []byte) (appsitemap.OldSite, error) { return files.OpenZip(data) }

func newSessions(pool *pgxpool.Pool) *scs.SessionManager {
	m := scs.New()
	m.Store = pgxstore.NewWithCleanupInterval(pool, 0)
	m.Lifetime = 12 * time.Hour
	m.IdleTimeout = 4 * time.Hour
	m.HashTokenInStore = true // who reads a backup cannot be somebody by it
	m.Cookie.Name = "candlepath"
	m.Cookie.Path = "/" // restricted pages of the reader site ask who reads
	m.Cookie.SameSite = http.SameSiteLaxMode
	m.ErrorFunc = func(w http.ResponseWriter, _ *http.Request, _ error) {
		w.Header().Set("Retry-After", "2")
		http.Error(w, "The studio cannot answer for a moment. Please try again; nothing is lost.", http.StatusServiceUnavailable)
	}
	return m
}

// secureName is the name of a cookie where there is TLS (RFC 6265bis, 4.1.3.2).
func secureName(name string) string { return "__Host-" + name }

// handler builds the engine. Sessions and the same-origin check wrap the
// studio from outside; readers pass neither.
func (s *Server) handler(desk *studio.Studio, sessions *scs.SessionManager) http.Handler {
	gin.SetMode(gin.ReleaseMode)
	e := gin.New()
	e.RedirectTrailingSlash, e.RedirectFixedPath, e.HandleMethodNotAllowed = false, false, false
	e.UseRawPath = false
	e.Use(s.metrics.count, gin.CustomRecoveryWithWriter(io.Discard, func(c *gin.Context, problem any) {
		s.log.Error("panic", "id", border.ID(c.Writer), "path", c.Request.URL.Path, "problem", problem, "stack", string(debug.Stack()))
		c.AbortWithStatus(http.StatusInternalServerError)
	}))
	desk.Register(e)
	s.routes(e)
	e.NoRoute(s.Reader.Serve)
	// Where the studio is reached by TLS, its cookie goes over nothing else, and no other host and no
	// plain answer can set one of its name.
	byTLS := *sessions
	byTLS.Cookie.Secure, byTLS.Cookie.Name = true, secureName(sessions.Cookie.Name)
	plainSide, secureSide := sessions.LoadAndSave(e), byTLS.LoadAndSave(e)
	studioSide := http.NewCrossOriginProtection().Handler(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if urls.Scheme(r) == "https" {
			secureSide.ServeHTTP(w, r)
			return
		}
		plainSide.ServeHTTP(w, r)
	}))
	numbers := border.NewNumbers()
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		s.neighbours.look(s, r)
		s.proxies.Client(r)
		numbers.Begin(w)
		if urls.Scheme(r) == "https" {
			w.Header().Set("Strict-Transport-Security", "max-age=31536000")
		}
		border.Query(r)
		if !border.Path(r) {
			r.URL.Path, r.URL.RawPath = "/\uFFFD", "" // where there is nothing
		}
		if r.URL.Path == urls.Studio || strings.HasPrefix(r.URL.Path, urls.Studio+"/") {
			studioSide.ServeHTTP(w, r)
			return
		}
		e.ServeHTTP(w, r)
	})
}

// routes adds what the program itself answers beside the studio. Whoever only asks
// for the head gets what they would get, but for the body.
func (s *Server) routes(e *gin.Engine) {
	get := func(path string, h gin.HandlerFunc) {
		e.GET(path, h)
		e.HEAD(path, h)
	}
	reading := func(path string, f func(http.ResponseWriter, *http.Request)) {
		get(path, func(c *gin.Context) { f(c.Writer, c.Request) })
	}
	get("/healthz", func(c *gin.Context) { c.String(http.StatusOK, "ok\n") })
	get("/readyz", s.ready)
	get("/assets/*name", func(c *gin.Context) { render.ServeAsset(c.Writer, c.Request) })
	reading(urls.Search, s.Reader.Search)
	reading(urls.Index, s.Reader.Index)
	reading(urls.Overview, s.Reader.Overview)
	reading(urls.TrailList, s.Reader.Trails)
	reading(urls.New, s.Reader.New)
	reading(urls.Feed, s.Reader.Feed)
	reading(urls.Style, s.Reader.Style)
	reading("/robots.txt", s.Reader.Robots)
	get("/files/:id/:name", s.Reader.File)
	tell := http.NewCrossOriginProtection().Handler(http.HandlerFunc(s.Reader.Tell))
	e.POST(urls.Tell, gin.WrapH(tell))
	where := http.NewCrossOriginProtection().Handler(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		s.Reader.Where(w, r, strings.TrimPrefix(r.URL.Path, urls.Where+"/"))
	}))
	get(urls.Where+"/:secret", gin.WrapH(where))
	get(urls.Ahead+"/:secret", s.Reader.SharedPreview)
	get(urls.Ahead+"/:secret/*at", s.Reader.SharedPreview)
	guard := http.NewCrossOriginProtection()
	e.POST(urls.Ahead+"/:secret", func(c *gin.Context) {
		if err := guard.Check(c.Request); err != nil {
			c.AbortWithStatus(http.StatusForbidden)
			return
		}
		s.Reader.AheadRemark(c)
	})
	e.POST(urls.Where+"/:secret", gin.WrapH(where))
}

func (s *Server) ready(c *gin.Context) {
	ctx, cancel := context.WithTimeout(c.Request.Context(), 2*time.Second)
	defer cancel()
	status, says := http.StatusOK, []string{"ready"}
	red := func(why string) {
		status, says[0], says = http.StatusServiceUnavailable, "not ready", append(says, why)
	}
	if !s.Reader.Ready() {
		red("no edition is taken up")
	}
	if s.store.Ping(ctx) != nil {
		red("the database does not answer")
	}
	newest, late := s.Reader.Lag()
	if serving := s.Reader.Edition(); serving < newest {
		if behind := fmt.Sprintf("serves edition %d, edition %d is published", serving, newest); late {
			red(behind)
		} else {
			says = append(says, behind)
		}
	}
	for _, name := range s.work.Failing() {
		red(name + ": failed")
	}
	c.String(status, strings.Join(says, "\n")+"\n")
}

// Exporter gives a reader site that answers nobody, and an edition for it to write out; 0 is the
// live one.
func Exporter(ctx context.Context, pool *pgxpool.Pool, kept plan.Objects, number int) (*reader.Site, plan.SiteState, error) {
	st, err := store.Open(pool)
	if err != nil {
		return nil, plan.SiteState{}, err
	}
	a := app.New(st, markup.New(), kept, func() time.Time { return time.Now().UTC() })
	site, err := reader.New(a, slog.New(slog.DiscardHandler), &background.Group{}, func(*http.Request) readership.Reader { return readership.Reader{} })
	if err != nil {
		return nil, plan.SiteState{}, err
	}
	state, err := a.ReadersState(ctx, number)
	return site, state, err
}
