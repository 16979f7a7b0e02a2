package reader

import (
	"context"
	"sync/atomic"
	"time"

	"candlepath/internal/core/redirect"
)

// uses counts how often each redirect of an edition answered until it is written down, without
// a lock and without a time: whoever writes visits down writes these, too.
type uses struct {
	rows []redirect.Row
	n    []atomic.Uint32 // by row
}

func newUses(rows []redirect.Row) *uses { return &uses{rows, make([]atomic.Uint32, len(rows))} }

// add counts that a row answered.
func (u *uses) add(row int) { u.n[row].Add(1) }

// take hands over what was counted and begins anew.
func (u *uses) take() map[redirect.Key]int {
	out := map[redirect.Key]int{}
	for i := range u.n {
		if u.n[i].Load() > 0 {
			out[u.rows[i].Key()] += int(u.n[i].Swap(0))
		}
	}
	return out
}

// giveBack adds counts that could not be written down.
func (u *uses) giveBack(n map[redirect.Key]int) {
	for i := range u.rows {
		if k := n[u.rows[i].Key()]; k > 0 {
			u.n[i].Add(uint32(k))
		}
	}
}

// writeUses writes down how often the redirects of an edition answered.
func (s *Site) writeUses(ctx context.Context, u *uses) error {
	n := u.take()
	if len(n) == 0 {
		return nil
	}
	ctx, cancel := context.WithTimeout(ctx, 5*time.Second)
	defer cancel()
	err := s.app.CountHits(ctx, n)
	if err != nil {
		u.giveBack(n)
		s.log.Warn("uses of redirects not written down yet", "error", err)
	}
	return err
}
