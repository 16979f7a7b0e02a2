// Package plan is the floor on which all areas of use cases stand: Next is read here,
// an act on it is recorded, undone and done again here, and rights are checked here.
//
// Live is what colleagues see; Next is Live with everything that is planned. Both are
// Trees: immutable, cached for one version of the work, and shared by all requests.
// An act goes one way:
//
//	OnNext    holds the site, checks the right, finds an act that was done already
//	the area  asks the core for the tree after the act
//	Record    writes what differs and how to undo it, and counts the plan one up
//	OnNext    caches the new trees once the transaction is through
//
// What an act does besides, to texts, decisions and menus, are its SideEffects: they
// are written in the same transaction and undone with it. Caches are filled after
// commit, with what the transaction returned; nothing reads them back.
//
// Each area has an interface of its own for what it does in a transaction, Tx, which
// holds this package's: see Area.
package plan

import (
	"errors"
	"strings"
	"sync/atomic"
	"time"

	"github.com/google/uuid"

	"candlepath/internal/core/edition"
	"candlepath/internal/core/reach"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
	"candlepath/internal/markup"
)

// Floor is what all areas stand on.
type Floor struct {
	Store   Store[Tx]
	Markup  *markup.Markup
	Objects Objects
	Now     func() time.Time

	trees *Cache[editionTrees]
	reach *Cache[*reach.Reach]
	table *Cache[[]redirect.Row]

	live   *Cache[*liveSummaries]
	drafts *Cache[*draftSummaries]

	// Counts is what was done since the program began.
	Counts Counts
}

// New makes a Floor.
func New(store Store[Tx], m *markup.Markup, objects Objects, now func() time.Time) *Floor {
	return &Floor{
		Store: store, Markup: m, Objects: objects, Now: now,
		trees: NewCache[editionTrees](CachedTrees), reach: NewCache[*reach.Reach](CachedReach), table: NewCache[[]redirect.Row](CachedRedirects),
		live: NewCache[*liveSummaries](CachedLivePages), drafts: NewCache[*draftSummaries](CachedDrafts),
	}
}

// ErrDatabaseFull says that the database has no room left.
var ErrDatabaseFull = errors.New("the database has no room left, so nothing was saved; tell your administrator")

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

// NewID makes an id that no other has, and that sorts by time.
func NewID() string { return uuid.Must(uuid.NewV7()).String() }

// CheckKey makes sure that a key given with a form is one of ours, so that a
// form sent twice is recognised.
func CheckKey(key string) error {
	if _, err := uuid.Parse(key); err != nil {
		return Refuse("key", "The form lost its key. Load the page again.")
	}
	return nil
}

// May refuses, in words, what the roles of a person do not allow.
func May(s Site, who Person, act workflow.Act) error {
	if !s.Rights().May(who.Role, act) {
		return ErrForbidden
	}
	return nil
}

// MayPlan is May for whoever plans.
func MayPlan(s Site, who Person) error { return May(s, who, workflow.Plan) }

// LowerFirst writes the first letter of a word small, to put it inside a sentence.
func LowerFirst(s string) string { return strings.ToLower(s[:1]) + s[1:] }

// SentenceOf makes a sentence of an error: a capital first, a full stop last.
func SentenceOf(err error) string {
	s := err.Error()
	return strings.ToUpper(s[:1]) + s[1:] + "."
}

// Plural writes a number with the noun that fits it: "1 page", "1,204 pages".
func Plural(n int, one, many string) string {
	if n == 1 {
		return one
	}
	return many
}

// TitleOf gives the title of an entry as it is quoted in sentences, also where
// there is no such entry.
func TitleOf(t *sitemap.Tree, id string) string {
	if i := t.Find(id); i != sitemap.None {
		return t.Ref(i).Title
	}
	return edition.Nameless(id)
}
