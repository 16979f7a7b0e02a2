package reader

import (
	"context"
	"net/http"
	"net/url"
	"sync"
	"time"

	"candlepath/internal/core/address"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/unanswered"
)

// misses counts addresses that answered nothing until they are written down.
type misses struct {
	mu    sync.Mutex
	n     unanswered.Count
	since time.Time
}

// missed counts an address that answered nothing, unless it is there for other readers.
func (s *Site) missed(r *http.Request, normal string) {
	full := s.live.Load().full
	if r.Method != http.MethodGet || full.Table.ResolveNormal(normal, r.URL.RawQuery).Code != http.StatusNotFound {
		return
	}
	now := time.Now()
	s.misses.mu.Lock()
	if s.misses.n == nil {
		s.misses.n, s.misses.since = unanswered.Count{}, now
	}
	s.misses.n.Add(unanswered.Asked{Address: normal, Page: s.linkedFrom(r)})
	due := now.Sub(s.misses.since) >= visitEvery
	if due {
		s.misses.since = now
	}
	s.misses.mu.Unlock()
	if due {
		s.work.Go("write addresses not found", func() error { return s.writeMisses(context.Background()) })
	}
}

// linkedFrom is the page of this site, for everybody, on which the link stood; empty: none is
// known.
func (s *Site) linkedFrom(r *http.Request) string {
	u, err := url.Parse(r.Referer())
	if err != nil || u.Host != r.Host {
		return ""
	}
	normal, err := address.Normal(address.PathOf(u))
	if err != nil || s.live.Load().public.Tree.PageAt(normal) == sitemap.None {
		return ""
	}
	return normal
}

// writeMisses writes down the addresses that answered nothing.
func (s *Site) writeMisses(ctx context.Context) error {
	s.misses.mu.Lock()
	n := s.misses.n
	s.misses.n = nil
	s.misses.mu.Unlock()
	if len(n) == 0 {
		return nil
	}
	ctx, cancel := context.WithTimeout(ctx, 5*time.Second)
	defer cancel()
	err := s.app.CountUnanswered(ctx, n)
	if err != nil {
		s.log.Warn("unanswered addresses not written down yet", "error", err)
		s.misses.mu.Lock()
		if s.misses.n == nil {
			s.misses.n, s.misses.since = unanswered.Count{}, time.Now()
		}
		s.misses.n.Merge(n)
		s.misses.mu.Unlock()
	}
	return err
}
