// Package server puts the studio and the reader site behind one handler.
package server

import (
	"context"
	"errors"
	"io"
	"log/slog"
	"net/http"
	"strings"
	"sync"
	"time"

	"github.com/alexedwards/scs/pgxstore"
	"github.com/alexedwards/scs/v2"
	"github.com/gin-gonic/gin"
	"github.com/jackc/pgx/v5/pgxpool"

	"candlepath/internal/app"
	"candlepath/internal/core/readership"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/files"
	"candlepath/internal/markup"
	"candlepath/internal/store"
	"candlepath/internal/web/reader"
	"candlepath/internal/web/render"
	"candlepath/internal/web/studio"
	"candlepath/internal/web/urls"
)

// Server is a running instance without its listener.
type Server struct {
	App     *app.App
	Handler http.Handler
	Reader  *reader.Site
	store   *store.Store
	cancel  context.CancelFunc
	work    sync.WaitGroup
}

// New makes an instance over a migrated database. Close ends what it started.
func New(ctx context.Context, pool *pgxpool.Pool, log *slog.Logger) (*Server, error) {
	st, err := store.Open(pool)
	if err != nil {
		return nil, err
	}
	a := app.New(st, markup.New(), func() time.Time { return time.Now().UTC().Truncate(time.Microsecond) })
	sessions := newSessions(pool)
	site, err := reader.New(a, log, readerOf(a, sessions))
	if err != nil {
		return nil, err
	}
	ctx, cancel := context.WithCancel(ctx)
	s := &Server{App: a, Reader: site, store: st, cancel: cancel}
	desk, err := studio.New(studio.Config{
		App: a, Sessions: sessions, Log: log, Read: ReadSheet, OpenOld: OpenOldSite,
		Published: func(ctx context.Context) {
			if err := site.Refresh(ctx); err != nil {
				log.Error("take up edition", "error", err)
			}
		},
		Preview: site.Preview,
		Work:    func(f func(context.Context)) { s.work.Go(func() { f(ctx) }) },
	})
	if err != nil {
		cancel()
		return nil, err
	}
	if err := site.Refresh(ctx); err != nil && !errors.Is(err, app.ErrNotFound) {
		cancel()
		return nil, err
	}
	s.work.Go(func() { site.Watch(ctx, st.Listen) })
	s.work.Go(func() { site.CountVisits(ctx) })
	s.Handler = s.handler(desk, sessions, log)
	return s, nil
}

// Close stops the background work and waits for it.
func (s *Server) Close() {
	s.cancel()
	s.work.Wait()
}

// ReadSheet reads a brought-in file.
func ReadSheet(name string, r io.Reader, progress func(int)) (*sitemap.Sheet, error) {
	return files.ReadSitemap(name, r, files.Options{Progress: progress})
}

// OpenOldSite opens a brought-in archive of an older site.
func OpenOldSite(data []byte) (app.OldSite, error) { return files.OpenZip(data) }

func newSessions(pool *pgxpool.Pool) *scs.SessionManager {
	m := scs.New()
	m.Store = pgxstore.NewWithCleanupInterval(pool, 0)
	m.Lifetime = 12 * time.Hour
	m.IdleTimeout = 4 * time.Hour
	m.Cookie.Name = "candlepath"
	m.Cookie.Path = "/" // restricted pages of the reader site ask who reads
	m.Cookie.SameSite = http.SameSiteLaxMode
	m.ErrorFunc = func(w http.ResponseWriter, _ *http.Request, _ error) {
		w.Header().Set("Retry-After", "2")
		http.Error(w, "The studio cannot answer for a moment. Please try again; nothing is lost.", http.StatusServiceUnavailable)
	}
	return m
}

// readerOf names who reads, from the session of the studio.
func readerOf(a *app.App, sessions *scs.SessionManager) func(*http.Request) readership.Reader {
	return func(r *http.Request) readership.Reader {
		c, err := r.Cookie(sessions.Cookie.Name)
		if err != nil {
			return readership.Reader{}
		}
		ctx, err := sessions.Load(r.Context(), c.Value)
		if err != nil {
			return readership.Reader{}
		}
		p, _, err := a.Person(ctx, studio.PersonOf(ctx, sessions))
		if err != nil {
			return readership.Reader{}
		}
		return readership.Reader{Name: p.Name, Login: p.Login, Role: p.Role}
	}
}

// handler builds the engine. Sessions and the same-origin check wrap the
// studio from outside; readers pass neither.
func (s *Server) handler(desk *studio.Studio, sessions *scs.SessionManager, log *slog.Logger) http.Handler {
	gin.SetMode(gin.ReleaseMode)
	e := gin.New()
	e.RedirectTrailingSlash, e.RedirectFixedPath, e.HandleMethodNotAllowed = false, false, false
	e.UseRawPath = false
	e.Use(gin.CustomRecoveryWithWriter(io.Discard, func(c *gin.Context, problem any) {
		log.Error("panic", "path", c.Request.URL.Path, "problem", problem)
		c.AbortWithStatus(http.StatusInternalServerError)
	}))
	desk.Register(e)
	// Whoever only asks for the head gets what they would get, but for the body.
	get := func(path string, h gin.HandlerFunc) {
		e.GET(path, h)
		e.HEAD(path, h)
	}
	get("/healthz", func(c *gin.Context) { c.String(http.StatusOK, "ok\n") })
	get("/readyz", s.ready)
	get("/assets/*name", func(c *gin.Context) { render.ServeAsset(c.Writer, c.Request) })
	get(urls.Search, func(c *gin.Context) { s.Reader.Search(c.Writer, c.Request) })
	get(urls.Index, func(c *gin.Context) { s.Reader.Index(c.Writer, c.Request) })
	get(urls.Overview, func(c *gin.Context) { s.Reader.Overview(c.Writer, c.Request) })
	get(urls.TrailList, func(c *gin.Context) { s.Reader.Trails(c.Writer, c.Request) })
	get(urls.New, func(c *gin.Context) { s.Reader.New(c.Writer, c.Request) })
	where := http.NewCrossOriginProtection().Handler(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		s.Reader.Where(w, r, strings.TrimPrefix(r.URL.Path, urls.Where+"/"))
	}))
	get(urls.Where+"/:secret", gin.WrapH(where))
	e.POST(urls.Where+"/:secret", gin.WrapH(where))
	get(urls.Feed, func(c *gin.Context) { s.Reader.Feed(c.Writer, c.Request) })
	get(urls.Style, func(c *gin.Context) { s.Reader.Style(c.Writer, c.Request) })
	get("/files/:id/:name", s.Reader.Picture)
	get("/robots.txt", func(c *gin.Context) { s.Reader.Robots(c.Writer, c.Request) })
	e.NoRoute(s.Reader.Serve)
	// Where the studio is reached by TLS, its cookie goes over nothing else.
	byTLS := *sessions
	byTLS.Cookie.Secure = true
	plainSide, secureSide := sessions.LoadAndSave(e), byTLS.LoadAndSave(e)
	studioSide := http.NewCrossOriginProtection().Handler(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if urls.Scheme(r) == "https" {
			secureSide.ServeHTTP(w, r)
			return
		}
		plainSide.ServeHTTP(w, r)
	}))
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.URL.Path == urls.Studio || strings.HasPrefix(r.URL.Path, urls.Studio+"/") {
			studioSide.ServeHTTP(w, r)
			return
		}
		e.ServeHTTP(w, r)
	})
}

func (s *Server) ready(c *gin.Context) {
	ctx, cancel := context.WithTimeout(c.Request.Context(), 2*time.Second)
	defer cancel()
	if !s.Reader.Ready() || s.store.Ping(ctx) != nil {
		c.String(http.StatusServiceUnavailable, "not ready\n")
		return
	}
	c.String(http.StatusOK, "ready\n")
}
