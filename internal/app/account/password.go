package account

import (
	"context"
	"crypto/rand"
	"crypto/subtle"
	"encoding/base64"
	"errors"
	"fmt"
	"strings"
	"sync/atomic"
	"time"
	"unicode/utf8"

	"golang.org/x/crypto/argon2"

	"candlepath/internal/app/plan"
)

// Argon2id as RFC 9106 recommends for memory-constrained servers, halved in
// memory and with one more pass.
const (
	argonTime   = 4
	argonMemory = 32 << 10 // KiB
	argonLanes  = 2
	argonKey    = 32
)

// Passwords have at least these many characters.
const (
	leastPassword = 10
	mostPassword  = 200 // bytes
)

var unknownHash = HashWithSalt("-", []byte("0123456789abcdef"))

// HashPassword makes the stored form of a password.
func HashPassword(password string) (string, error) {
	salt := make([]byte, 16)
	if _, err := rand.Read(salt); err != nil {
		return "", fmt.Errorf("make salt: %w", err)
	}
	return HashWithSalt(password, salt), nil
}

// HashWithSalt is HashPassword with a given salt.
func HashWithSalt(password string, salt []byte) string {
	key := argon2.IDKey([]byte(password), salt, argonTime, argonMemory, argonLanes, argonKey)
	b64 := base64.RawStdEncoding.EncodeToString
	return fmt.Sprintf("$argon2id$v=19$m=%d,t=%d,p=%d$%s$%s", argonMemory, argonTime, argonLanes, b64(salt), b64(key))
}

// CheckPassword tells whether a password fits its stored form.
func CheckPassword(stored, password string) bool {
	parts := strings.Split(stored, "$")
	if len(parts) != 6 || parts[1] != "argon2id" {
		return false
	}
	var m, t uint32
	var p uint8
	if _, err := fmt.Sscanf(parts[3], "m=%d,t=%d,p=%d", &m, &t, &p); err != nil {
		return false
	}
	salt, err1 := base64.RawStdEncoding.DecodeString(parts[4])
	want, err2 := base64.RawStdEncoding.DecodeString(parts[5])
	if err1 != nil || err2 != nil {
		return false
	}
	got := argon2.IDKey([]byte(password), salt, t, m, p, uint32(len(want)))
	return subtle.ConstantTimeCompare(got, want) == 1
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
