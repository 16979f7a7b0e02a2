// Package app holds the use cases, one a file: load, ask the core, save, in one
// transaction. It decides nothing about the job that the core could decide.
package app

import (
	"context"
	"errors"
	"fmt"
	"sync/atomic"
	"time"

	"github.com/google/uuid"
	"golang.org/x/sync/singleflight"

	"candlepath/internal/app/port"
	"candlepath/internal/core/workflow"
	"candlepath/internal/markup"
)

// App is the application without its edges.
type App struct {
	store  port.Store
	markup *markup.Markup
	now    func() time.Time

	checked atomic.Pointer[Checked]
	reach   atomic.Pointer[keptReach]
	trees   atomic.Pointer[cachedTrees]
	summary atomic.Pointer[keptNext]
	summing singleflight.Group
	hashing *gate
	reading chan struct{} // holds one for each file that is read

	// Counts is what was done since the program began.
	Counts Counts
}

// Counts are numbers that only grow.
type Counts struct{ Acts, Editions, TreeHits, TreeMisses atomic.Uint64 }

// New makes an App.
func New(store port.Store, m *markup.Markup, now func() time.Time) *App {
	return &App{store: store, markup: m, now: now, hashing: newGate(), reading: make(chan struct{}, readAtOnce)}
}

// Today is the day of the application's clock.
func (a *App) Today() string { return a.now().Format(time.DateOnly) }

// Errors that the edges word for people.
var (
	ErrForbidden = errors.New("your role does not allow this")
	ErrNotFound  = port.ErrNotFound
	ErrDone      = port.ErrDone
)

// Invalid says which input cannot be used and why.
type Invalid struct {
	Field   string
	Message string
}

func (e *Invalid) Error() string { return e.Message }

func newID() string { return uuid.Must(uuid.NewV7()).String() }

// checkKey makes sure that a key given with a form is one of ours, so that a
// form sent twice is recognised.
func checkKey(key string) error {
	if _, err := uuid.Parse(key); err != nil {
		return &Invalid{"key", "The form lost its key. Load the page again."}
	}
	return nil
}

// cachedTrees are the trees of one version of the plan. They are derived from
// the database and immutable, so any instance may keep the newest it saw.
type cachedTrees struct {
	site    string
	edition int
	plan    int64
	trees   port.Trees
}

// keep makes the trees of a committed state known to all, unless a later one
// is known.
func (a *App) keep(s port.Site, plan int64, trees port.Trees) {
	c := &cachedTrees{s.ID, s.Edition, plan, trees}
	for {
		old := a.trees.Load()
		if old != nil && old.site == c.site && (old.edition > c.edition || old.edition == c.edition && old.plan >= c.plan) {
			return
		}
		if a.trees.CompareAndSwap(old, c) {
			return
		}
	}
}

// treesOf gives the trees of the site as it stands in the transaction.
func (a *App) treesOf(ctx context.Context, tx port.Tx, s port.Site) (port.Trees, error) {
	if c := a.trees.Load(); c != nil && c.site == s.ID && c.edition == s.Edition && c.plan == s.PlanVersion {
		a.Counts.TreeHits.Add(1)
		return c.trees, nil
	}
	a.Counts.TreeMisses.Add(1)
	t, err := tx.Trees(ctx)
	if err != nil {
		return t, fmt.Errorf("load sitemap: %w", err)
	}
	if tx.Steady() {
		a.keep(s, s.PlanVersion, t)
	}
	return t, nil
}

func may(s port.Site, who port.Person, act workflow.Act) error {
	if !s.Rights.May(who.Role, act) {
		return ErrForbidden
	}
	return nil
}

func peopleByID(ctx context.Context, tx port.Tx) (map[string]port.Person, error) {
	list, err := tx.People(ctx)
	if err != nil {
		return nil, fmt.Errorf("load people: %w", err)
	}
	by := make(map[string]port.Person, len(list))
	for _, p := range list {
		by[p.ID] = p
	}
	return by, nil
}
