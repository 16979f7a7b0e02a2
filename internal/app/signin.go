package app

import (
	"context"
	"crypto/rand"
	"crypto/subtle"
	"encoding/base64"
	"errors"
	"fmt"
	"strings"
	"time"

	"golang.org/x/crypto/argon2"

	"candlepath/internal/app/port"
)

// ErrSignIn says that name and password do not go together, without saying
// which of them is wrong.
var ErrSignIn = errors.New("name or password is not right")

// ErrTooMany says that sign-in is closed for a while after many failures.
var ErrTooMany = errors.New("too many tries; wait a quarter of an hour")

const (
	failureWindow  = 15 * time.Minute
	failuresPerOne = 8  // for one name
	failuresPerAll = 40 // from one host
)

// SignIn checks a name and password.
func (a *App) SignIn(ctx context.Context, login, password, host string) (port.Person, error) {
	login = strings.ToLower(strings.TrimSpace(login))
	var p port.Person
	var known bool
	err := a.store.Note(ctx, func(tx port.Tx, _ port.Site) error {
		one, all, err := tx.Failures(ctx, login, host, a.now().Add(-failureWindow))
		if err != nil {
			return err
		}
		if one >= failuresPerOne || all >= failuresPerAll {
			return ErrTooMany
		}
		p, err = tx.PersonByLogin(ctx, login)
		known = err == nil
		if errors.Is(err, port.ErrNotFound) {
			return nil
		}
		return err
	})
	if err != nil {
		return port.Person{}, err
	}
	hash := p.PasswordHash
	if !known {
		hash = unknownHash // takes as long as a known name
	}
	if ok := CheckPassword(hash, password); !ok || !known {
		return port.Person{}, errors.Join(ErrSignIn, a.store.Note(ctx, func(tx port.Tx, _ port.Site) error {
			return tx.AddFailure(ctx, login, host, a.now())
		}))
	}
	return p, a.store.Note(ctx, func(tx port.Tx, _ port.Site) error { return tx.ForgetFailures(ctx, login) })
}

// Person gives the person of a session.
func (a *App) Person(ctx context.Context, id string) (port.Person, port.Site, error) {
	var p port.Person
	var site port.Site
	err := a.store.Note(ctx, func(tx port.Tx, s port.Site) error {
		site = s
		by, err := peopleByID(ctx, tx)
		if err != nil {
			return err
		}
		var ok bool
		if p, ok = by[id]; !ok {
			return ErrNotFound
		}
		return nil
	})
	return p, site, err
}

// Argon2id as RFC 9106 recommends for memory-constrained servers, halved in
// memory and with one more pass.
const (
	argonTime   = 4
	argonMemory = 32 << 10 // KiB
	argonLanes  = 2
	argonKey    = 32
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
