package editions

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"
	"sync"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/workflow"
	"candlepath/internal/platform/background"
)

// Overview is what the frame of every screen tells of the site and its next
// edition.
type Overview struct {
	Site  plan.Site
	Trees plan.Trees
	Next  *NextEdition // with all that is planned; nil: not worked out yet. It is shared and must not be changed
}

// keptNext is the next edition as every screen tells of it, as long as nothing of
// it changes.
type keptNext struct {
	of   string
	next NextEdition
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
	o, of, err := a.look(ctx, who)
	if err != nil || o.Next != nil || o.Trees.Live.Len()+o.Trees.Next.Len() > atOnce {
		return o, err
	}
	return a.summarised(ctx, of)
}

// Summary gives the next edition with all that is planned, as every screen tells
// of it. It is worked out once for all who ask, also when the first of them
// leaves.
func (a *Editions) Summary(ctx context.Context, who plan.Person) (Overview, error) {
	o, of, err := a.look(ctx, who)
	if err != nil || o.Next != nil {
		return o, err
	}
	return a.summarised(ctx, of)
}

// look takes what is known already, and what it depends on.
func (a *Editions) look(ctx context.Context, who plan.Person) (o Overview, of string, err error) {
	err = a.Planning(ctx, who, func(tx Tx, s plan.Site, trees plan.Trees) error {
		var err error
		o, of, err = a.kept(ctx, tx, s, trees)
		return err
	})
	return o, of, err
}

// summarised waits for the next edition of a state, or a later one.
func (a *Editions) summarised(ctx context.Context, of string) (Overview, error) {
	work := a.summing.DoChan(of, func() (o any, err error) {
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

// summarise works out the next edition, or takes it as it is kept.
func (a *Editions) summarise(ctx context.Context) (Overview, error) {
	var o Overview
	err := a.Store.Read(ctx, func(tx Tx, s plan.Site) error {
		trees, err := a.TreesOf(ctx, tx, s)
		if err != nil {
			return err
		}
		var of string
		if o, of, err = a.kept(ctx, tx, s, trees); err != nil || o.Next != nil {
			return err
		}
		n, err := a.workOut(ctx, tx, s, plan.Person{}, Select{})
		if err == nil {
			a.summary.Store(&keptNext{of, n})
			o.Next = &n
		}
		return err
	})
	return o, err
}

// kept gives the overview with Next as it is kept, and what Next depends on.
func (a *Editions) kept(ctx context.Context, tx Tx, s plan.Site, trees plan.Trees) (o Overview, of string, err error) {
	o = Overview{Site: s, Trees: trees}
	of = a.basis(s)
	kept := a.summary.Load()
	if kept == nil || kept.of != of {
		return o, of, nil
	}
	n, holds, err := a.now(ctx, tx, s, kept)
	if holds {
		o.Next = &n
	}
	return o, of, err
}

// basis differs whenever something did of what Next is worked out from, but for visits and the time of day.
func (a *Editions) basis(s plan.Site) string {
	return fmt.Sprint(s.ID, s.Edition, " ", s.PlanVersion, " ", s.Hosts, s.Settings, a.Now().Format(time.DateOnly), " ", s.Work.Of(plan.Parts()...))
}

// now gives the next edition as it is kept, if visits leave it so.
func (a *Editions) now(ctx context.Context, tx Tx, s plan.Site, k *keptNext) (n NextEdition, holds bool, err error) {
	n = k.next
	n.Site, n.Frozen = s, workflow.Frozen(n.freezes, a.Now())
	unvisited, err := n.neverVisited(ctx, tx)
	return n, err == nil && maps.Equal(unvisited, n.unvisited), err
}

// keptLooks is how many next editions are kept as people chose them.
const keptLooks = 4

// looks are the next editions that people looked at last. Whoever publishes, or looks at one page after another, finds
// what they had before them, unless something changed.
type looks struct {
	mu   sync.Mutex
	list []keptNext // the last one first
}

func (l *looks) at(of string) *keptNext {
	l.mu.Lock()
	defer l.mu.Unlock()
	if i := slices.IndexFunc(l.list, func(k keptNext) bool { return k.of == of }); i >= 0 {
		k := l.list[i]
		return &k
	}
	return nil
}

func (l *looks) keep(k keptNext) {
	l.mu.Lock()
	defer l.mu.Unlock()
	l.list = append([]keptNext{k}, l.list[:min(len(l.list), keptLooks-1)]...)
}

// next gives the next edition as somebody selects it: as it is kept, or worked out. It is shared and must not be changed.
func (a *Editions) next(ctx context.Context, tx Tx, s plan.Site, who plan.Person, sel Select) (n NextEdition, err error) {
	if len(sel.withdraw) > 0 || sel.exactly != nil {
		return a.workOut(ctx, tx, s, who, sel)
	}
	of, choice := a.basis(s), ""
	if sel.Own {
		if choice, err = tx.ChoiceStamp(ctx, who.ID); err != nil {
			return n, err
		}
	}
	of = strings.Join([]string{of, who.ID, choice, fmt.Sprint(sel)}, "|")
	if kept := a.looks.at(of); kept != nil {
		if n, holds, err := a.now(ctx, tx, s, kept); err != nil || holds {
			return n, err
		}
	}
	n, err = a.workOut(ctx, tx, s, who, sel)
	if n.of = of; err == nil && tx.Steady() {
		a.looks.keep(keptNext{of, n})
	}
	return n, err
}
