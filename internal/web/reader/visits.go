package reader

import (
	"context"
	"errors"
	"sync"
	"time"
)

// visitEvery is how long visits are counted before they are written down. Those that
// nobody follows are written when all instances are asked to.
const visitEvery = 5 * time.Second

// visits counts pages that readers opened until they are written down. It keeps
// only how often, and nothing of the reader.
type visits struct {
	mu    sync.Mutex
	n     map[string]int
	since time.Time // when the first of them was counted
}

// add counts a visit, and tells whether it is time to write down what was counted.
func (v *visits) add(entry string, now time.Time) (due bool) {
	v.mu.Lock()
	defer v.mu.Unlock()
	if len(v.n) == 0 {
		v.since = now
	}
	v.n[entry]++
	if due = now.Sub(v.since) >= visitEvery; due {
		v.since = now // one writer is enough
	}
	return due
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

// count counts a visit. Every few seconds whoever comes next writes down what was
// counted, beside the answer.
func (s *Site) count(entry string) {
	if s.visits.add(entry, time.Now()) {
		s.work.Go("write visits", func() error { return s.WriteVisits(context.Background()) })
	}
}

// WriteVisits writes down the visits, the uses of redirects and the addresses without an answer
// that were counted.
func (s *Site) WriteVisits(ctx context.Context) error {
	err := s.writeMisses(ctx)
	if e := s.live.Load(); e != nil {
		err = errors.Join(err, s.writeUses(ctx, e.uses))
	}
	n := s.visits.take()
	if len(n) == 0 {
		return err
	}
	ctx, cancel := context.WithTimeout(ctx, 5*time.Second)
	defer cancel()
	if err := s.app.CountVisits(ctx, n); err != nil {
		s.visits.giveBack(n)
		s.log.Warn("visits not written down yet", "error", err)
		return err
	}
	return err
}

// Close writes down the last visits.
func (s *Site) Close(ctx context.Context) {
	_ = s.WriteVisits(ctx) // which logs what fails
}
