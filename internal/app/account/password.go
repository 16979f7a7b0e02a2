package account

import (
	"context"
	"errors"
	"fmt"
	"sync/atomic"
	"time"
	"unicode/utf8"

	"github.com/alexedwards/argon2id"

	"candlepath/internal/app/plan"
)

// Argon2id as RFC 9106 recommends for memory-constrained servers, halved in
// memory and with one more pass.
var argon = argon2id.Params{Memory: 32 << 10, Iterations: 4, Parallelism: 2, SaltLength: 16, KeyLength: 32}

// Passwords have at least these many characters.
const (
	leastPassword = 10
	mostPassword  = 200 // bytes
)

// unknownHash is held against a password where nobody has the name, so that this
// takes as long as for somebody.
const unknownHash = "$argon2id$v=19$m=32768,t=4,p=2$HiqVKRZ2KHHOGNeafez7Jw$oK5YLF88CvJ0pLsS8XnFe0dfZO92P+HRDz9ymLY0FFc"

// HashPassword makes the stored form of a password.
func HashPassword(password string) (string, error) { return argon2id.CreateHash(password, &argon) }

// CheckPassword tells whether a password fits its stored form.
func CheckPassword(stored, password string) bool {
	fits, err := argon2id.ComparePasswordAndHash(password, stored)
	return err == nil && fits
}

func checkNewPassword(password string) error {
	switch {
	case utf8.RuneCountInString(password) < leastPassword:
		return plan.Refuse("password", fmt.Sprintf("A password needs at least %d characters. A few words are easy to remember.", leastPassword))
	case len(password) > mostPassword:
		return plan.Refuse("password", "This password is too long.")
	}
	return nil
}

// ErrBusy says that too many wait already.
var ErrBusy = errors.New("too many people are signing in; try again in a few seconds")

// gate lets few do something that takes much memory, and few wait for it.
type gate struct {
	in      chan struct{}
	waiting atomic.Int32
}

// How many passwords are hashed at a time, and how many wait, how long.
const (
	hashesAtOnce = 2
	mostWaiting  = 12
	longestWait  = 3 * time.Second
)

func newGate() *gate { return &gate{in: make(chan struct{}, hashesAtOnce)} }

// pass runs f when there is room, or gives ErrBusy.
func (g *gate) pass(ctx context.Context, f func()) error {
	if g.waiting.Add(1) > mostWaiting+hashesAtOnce {
		g.waiting.Add(-1)
		return ErrBusy
	}
	defer g.waiting.Add(-1)
	timer := time.NewTimer(longestWait)
	defer timer.Stop()
	select {
	case g.in <- struct{}{}:
	case <-timer.C:
		return ErrBusy
	case <-ctx.Done():
		return ctx.Err()
	}
	defer func() { <-g.in }()
	f()
	return nil
}
