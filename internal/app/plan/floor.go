package plan

import (
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

func May(s Site, who Person, act workflow.Act) error {
	if !s.Rights.May(who.Role, act) {
		return ErrForbidden
	}
	return nil
}
