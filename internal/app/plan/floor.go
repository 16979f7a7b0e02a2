package plan

import (
	"context"
	"fmt"
	"sync/atomic"
	"time"

	"github.com/google/uuid"

	"candlepath/internal/core/workflow"
	"candlepath/internal/markup"
)

// Floor is what all areas stand on.
type Floor struct {
	Store  Store[Tx]
	Markup *markup.Markup
	Now    func() time.Time

	trees atomic.Pointer[cachedTrees]
	reach atomic.Pointer[keptReach]

	// Counts is what was done since the program began.
	Counts Counts
}

// New makes a Floor.
func New(store Store[Tx], m *markup.Markup, now func() time.Time) *Floor {
	return &Floor{Store: store, Markup: m, Now: now}
}

// Counts are numbers that only grow.
type Counts struct{ Acts, Editions, TreeHits, TreeMisses atomic.Uint64 }

// Today is the day of the application's clock.
func (a *Floor) Today() string { return a.Now().Format(time.DateOnly) }

// Invalid says which input cannot be used and why.
type Invalid struct {
	Field   string
	Message string
}

func (e *Invalid) Error() string { return e.Message }

// Refuse says that what stands in a field cannot be used, and why.
func Refuse(field, message string) error { return &Invalid{Field: field, Message: message} }

func NewID() string { return uuid.Must(uuid.NewV7()).String() }

// CheckKey makes sure that a key given with a form is one of ours, so that a
// form sent twice is recognised.
func CheckKey(key string) error {
	if _, err := uuid.Parse(key); err != nil {
		return Refuse("key", "The form lost its key. Load the page again.")
	}
	return nil
}

// cachedTrees are the trees of one version of the plan. They are derived from
// the database and immutable, so any instance may keep the newest it saw.
type cachedTrees struct {
	site    string
	edition int
	plan    int64
	trees   Trees
}

// keep makes the trees of a committed state known to all, unless a later one
// is known.
func (a *Floor) KeepTrees(s Site, plan int64, trees Trees) {
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

// TreesOf gives the trees of the site as it stands in the transaction.
func (a *Floor) TreesOf(ctx context.Context, tx Tx, s Site) (Trees, error) {
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
		a.KeepTrees(s, s.PlanVersion, t)
	}
	return t, nil
}

func May(s Site, who Person, act workflow.Act) error {
	if !s.Rights.May(who.Role, act) {
		return ErrForbidden
	}
	return nil
}

func PeopleByID(ctx context.Context, tx Tx) (map[string]Person, error) {
	list, err := tx.People(ctx)
	if err != nil {
		return nil, fmt.Errorf("load people: %w", err)
	}
	by := make(map[string]Person, len(list))
	for _, p := range list {
		by[p.ID] = p
	}
	return by, nil
}
