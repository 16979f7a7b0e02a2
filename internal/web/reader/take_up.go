package reader

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/app/reading"
)

// An instance serves one edition whole until it has taken up the next: its pages, lists, files and
// search are those of that edition, whatever is live by then. Who may read them is narrowed at once,
// as soon as a later edition is heard of.

// takingUp names the work in readiness and in logs.
const takingUp = "take up edition"

const (
	longestTakeUp = 2 * time.Minute
	longestLook   = 3 * time.Second
	lookEvery     = 2 * time.Second // for an edition whose announcement was missed
	mayLag        = 5 * time.Second // until an instance that is behind is not ready
)

// Refresh takes up the current edition; plan.ErrNotFound before the site is founded. What was composed
// of the one before is kept of all pages that look the same. After a failure the edition before is
// served on, and Follow tries again.
func (s *Site) Refresh(ctx context.Context) error {
	s.taking.Lock()
	defer s.taking.Unlock()
	ctx, stop := context.WithTimeout(ctx, longestTakeUp)
	defer stop()
	var unfounded error
	err := s.work.Run(takingUp, func() error {
		err := s.takeUp(ctx)
		if errors.Is(err, plan.ErrNotFound) {
			unfounded, err = err, nil
		}
		return err
	})
	return errors.Join(err, unfounded)
}

func (s *Site) takeUp(ctx context.Context) error {
	now, err := s.app.LiveNow(ctx)
	if err != nil {
		return err
	}
	s.hear(now.Site.Edition)
	old := s.live.Load()
	if old != nil && old.full.Site.Edition < now.Site.Edition {
		if err := s.narrow(old, now); err != nil {
			return fmt.Errorf("narrow readership: %w", err)
		}
		old = s.live.Load()
	}
	live, err := s.app.LoadLive(ctx)
	if err != nil {
		return err
	}
	if old != nil && (old.full.Site.Edition > live.Site.Edition || old.same(live.Site)) {
		s.caughtUp(old)
		return nil // what was composed of it is kept
	}
	e, err := newEdition(live, s.set, old)
	if err != nil {
		return err
	}
	if err := e.public.warm(); err != nil {
		return err
	}
	s.serve(ctx, old, e)
	s.caughtUp(e)
	return nil
}

// serve answers from an edition from now on, and writes down the uses of redirects of the one before.
func (s *Site) serve(ctx context.Context, old, e *edition) {
	s.live.Store(e)
	if old != nil {
		ctx := context.WithoutCancel(ctx)
		s.work.Go("write uses", func() error { return s.writeUses(ctx, old.uses) })
	}
}

// narrow makes an edition that is served on readable to those only who may read a page in the newest
// edition as well.
func (s *Site) narrow(old *edition, now reading.LiveSite) error {
	narrower := now.Narrower(old.full)
	if narrower == nil {
		return nil
	}
	full := old.full
	full.Narrow = narrower
	e, err := newEdition(full, s.set, nil)
	if err != nil {
		return err
	}
	s.serve(context.Background(), old, e)
	return nil
}

// hear notes that an edition is published.
func (s *Site) hear(number int) {
	if int64(number) > s.heard.Load() {
		s.heard.Store(int64(number))
	}
	if s.Edition() < number {
		s.behind.CompareAndSwap(0, time.Now().UnixMilli())
	}
}

func (s *Site) caughtUp(e *edition) {
	if int64(e.full.Site.Edition) >= s.heard.Load() {
		s.behind.Store(0)
	}
}

// Lag tells how far the instance is behind: the newest edition that it heard of, and whether it serves an
// earlier one for longer than taking it up should take.
func (s *Site) Lag() (newest int, late bool) {
	since := s.behind.Load()
	return int(s.heard.Load()), since != 0 && time.Since(time.UnixMilli(since)) > mayLag
}

// Follow looks every few seconds whether the edition that is served is the newest, until the context
// ends: an announcement can be missed, and taking an edition up can fail.
func (s *Site) Follow(ctx context.Context) error {
	every := time.NewTicker(lookEvery)
	defer every.Stop()
	for {
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-every.C:
			s.look(ctx)
		}
	}
}

func (s *Site) look(ctx context.Context) {
	short, stop := context.WithTimeout(ctx, longestLook)
	defer stop()
	now, err := s.app.SiteNow(short)
	if err != nil || now.ID == "" {
		return // readiness asks the database itself
	}
	s.hear(now.Edition)
	if e := s.live.Load(); e != nil && e.same(now) && !slices.Contains(s.work.Failing(), takingUp) {
		s.caughtUp(e)
		return
	}
	s.TakeUp(ctx)
}

// TakeUp is Refresh for those who wait for no answer: it logs what fails, which is tried again.
func (s *Site) TakeUp(ctx context.Context) {
	if err := s.Refresh(ctx); err != nil && ctx.Err() == nil && !errors.Is(err, plan.ErrNotFound) {
		s.log.Error(takingUp, "serving", s.Edition(), "newest", s.heard.Load(), "error", err)
	}
}
