package server

import (
	"context"
	"net/http"
	"net/netip"
	"sync"
	"time"
)

// neighbours remembers which servers pass requests on without being trusted to say for whom. Then all who
// come by them share one address in the limits of sign-in, and a secure connection counts as none.
type neighbours struct {
	mu   sync.Mutex
	seen map[netip.Addr]time.Time
}

const (
	mostNeighbours  = 100
	neighbourAgain  = time.Hour
	neighbourAdvice = "requests are passed on by a server that is not in TRUSTED_PROXIES; all who come by it share one address in the limits of sign-in"
)

// look notes who passes a request on, once an hour.
func (n *neighbours) look(s *Server, r *http.Request) {
	at, is := s.proxies.Untrusted(r)
	if !is || !at.IsLoopback() && !at.IsPrivate() {
		return // strangers write any header
	}
	now := time.Now()
	n.mu.Lock()
	known := now.Sub(n.seen[at]) < neighbourAgain || n.seen[at].IsZero() && len(n.seen) >= mostNeighbours
	if !known {
		if n.seen == nil {
			n.seen = map[netip.Addr]time.Time{}
		}
		n.seen[at] = now
	}
	n.mu.Unlock()
	if known {
		return
	}
	s.log.Warn(neighbourAdvice, "server", at.String())
	s.work.Go("note a neighbour", func() error {
		ctx, stop := context.WithTimeout(context.Background(), 5*time.Second)
		defer stop()
		return s.App.SeeNeighbour(ctx, at.String())
	})
}

// tellNeighbours logs those that were seen before this start.
func (s *Server) tellNeighbours(ctx context.Context) error {
	list, err := s.App.Neighbours(ctx)
	for _, address := range list {
		if !s.proxies.Trusts(address) {
			s.log.Warn(neighbourAdvice, "server", address)
		}
	}
	return err
}
