package reader

import (
	"context"
	"sync"
	"time"
)

// visits counts pages that readers opened until they are written down. It keeps
// only how often, and nothing of the reader.
type visits struct {
	mu sync.Mutex
	n  map[string]int
}

func (v *visits) add(entry string) {
	v.mu.Lock()
	v.n[entry]++
	v.mu.Unlock()
}

// take hands over what was counted and begins anew.
func (v *visits) take() map[string]int {
	v.mu.Lock()
	defer v.mu.Unlock()
	n := v.n
	v.n = map[string]int{}
	return n
}

// giveBack adds counts that could not be written down.
func (v *visits) giveBack(n map[string]int) {
	v.mu.Lock()
	defer v.mu.Unlock()
	for entry, k := range n {
		v.n[entry] += k
	}
}

// visitEvery is how often visits are written down.
const visitEvery = 5 * time.Second

// CountVisits writes down the visits of readers until the context ends, and
// once more then.
func (s *Site) CountVisits(ctx context.Context) {
	tick := time.NewTicker(visitEvery)
	defer tick.Stop()
	for ctx.Err() == nil {
		select {
		case <-ctx.Done():
		case <-tick.C:
		}
		s.writeVisits(context.WithoutCancel(ctx))
	}
}

func (s *Site) writeVisits(ctx context.Context) {
	n := s.visits.take()
	if len(n) == 0 {
		return
	}
	ctx, cancel := context.WithTimeout(ctx, 5*time.Second)
	defer cancel()
	if err := s.app.CountVisits(ctx, n); err != nil {
		s.visits.giveBack(n)
		s.log.Warn("visits not written down yet", "error", err)
	}
}
