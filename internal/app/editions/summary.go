package editions

import (
	"context"
	"fmt"
	"maps"
	"strings"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/platform/background"
)

// Overview is what the frame of every screen tells of the site and its next
// edition.
type Overview struct {
	Site  plan.Site
	Trees plan.Trees
	Next  *NextEdition // with all that is planned; nil: not worked out yet. It is shared and must not be changed
}

// atOnce is the most entries, Live and Next together, for which the next edition is
// worked out while a screen waits for it. In larger sites the screen comes first.
const atOnce = 8_000

// summaryLimit is how long working out the next edition may take.
const summaryLimit = 2 * time.Minute

// Overview gives the frame of a screen what it tells, without keeping it waiting:
// in a large site Next is there only if somebody asked for Summary since the last
// change.
func (a *Editions) Overview(ctx context.Context, who plan.Person) (Overview, error) {
	o, err := a.look(ctx, who)
	if err != nil || o.Next != nil || o.Trees.Live.Len()+o.Trees.Next.Len() > atOnce {
		return o, err
	}
	return a.summarised(ctx, o.Site)
}

// Summary gives the next edition with all that is planned, as every screen tells
// of it. It is worked out once for all who ask, also when the first of them
// leaves.
func (a *Editions) Summary(ctx context.Context, who plan.Person) (Overview, error) {
	o, err := a.look(ctx, who)
	if err != nil || o.Next != nil {
		return o, err
	}
	return a.summarised(ctx, o.Site)
}

// look takes what is cached already.
func (a *Editions) look(ctx context.Context, who plan.Person) (o Overview, err error) {
	err = a.Planning(ctx, who, func(tx Tx, s plan.Site, trees plan.Trees) error {
		var err error
		o, err = a.cached(ctx, tx, s, trees)
		return err
	})
	return o, err
}

// summarised waits for the next edition of a state, or a later one.
func (a *Editions) summarised(ctx context.Context, s plan.Site) (Overview, error) {
	work := a.summing.DoChan(s.ID+a.besides(s)+s.Work.Of(plan.Parts()...), func() (o any, err error) {
		defer background.Recovered(&err) // which would end the process
		alone, stop := context.WithTimeout(context.WithoutCancel(ctx), summaryLimit)
		defer stop()
		return a.summarise(alone)
	})
	select {
	case <-ctx.Done():
		return Overview{}, ctx.Err()
	case done := <-work:
		o, _ := done.Val.(Overview)
		return o, done.Err
	}
}

// summarise works out the next edition, or takes it as it is cached.
func (a *Editions) summarise(ctx context.Context) (Overview, error) {
	var o Overview
	err := a.Store.Read(ctx, func(tx Tx, s plan.Site) error {
		trees, err := a.TreesOf(ctx, tx, s)
		if err != nil {
			return err
		}
		if o, err = a.cached(ctx, tx, s, trees); err != nil || o.Next != nil {
			return err
		}
		n, err := a.workOut(ctx, tx, s, plan.Person{}, Select{})
		if err == nil {
			a.summary.Put(tx, s, a.besides(s), n)
			o.Next = &n
		}
		return err
	})
	return o, err
}

// cached gives the overview with Next as it is cached.
func (a *Editions) cached(ctx context.Context, tx Tx, s plan.Site, trees plan.Trees) (o Overview, err error) {
	o = Overview{Site: s, Trees: trees}
	n, ok := a.summary.Get(s, a.besides(s))
	if !ok {
		return o, nil
	}
	holds, err := a.now(ctx, tx, s, &n)
	if holds {
		o.Next = &n
	}
	return o, err
}

// besides tells what Next is worked out from besides the parts of the work, but for visits and the time of day.
func (a *Editions) besides(s plan.Site) string {
	return fmt.Sprint(s.Hosts, s.Settings, a.Now().Format(time.DateOnly))
}

// now makes a cached next edition one of this moment, if visits leave it so.
func (a *Editions) now(ctx context.Context, tx Tx, s plan.Site, n *NextEdition) (holds bool, err error) {
	n.Site = s
	n.looked(a.Now())
	unvisited, err := neverVisited(ctx, tx, n.Undecided)
	return err == nil && maps.Equal(unvisited, n.Unvisited), err
}

// next gives the next edition as somebody selects it: cached, or worked out. It is shared and must not be changed.
func (a *Editions) next(ctx context.Context, tx Tx, s plan.Site, who plan.Person, sel Select) (n NextEdition, err error) {
	if len(sel.leaving) > 0 || sel.exactly != nil || sel.restore > 0 {
		return a.workOut(ctx, tx, s, who, sel)
	}
	choice := ""
	if sel.Own {
		if choice, err = tx.ChoiceStamp(ctx, who.ID); err != nil {
			return n, err
		}
	}
	key := strings.Join([]string{"next", a.besides(s), who.ID, choice, fmt.Sprint(sel)}, "|")
	if n, ok := a.selections.Get(s, key); ok {
		if holds, err := a.now(ctx, tx, s, &n); err != nil || holds {
			return n, err
		}
	}
	n, err = a.workOut(ctx, tx, s, who, sel)
	if n.key = key; err == nil {
		a.selections.Put(tx, s, key, n)
	}
	return n, err
}
