package app

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"errors"
	"fmt"
	"strings"
	"time"

	"candlepath/internal/app/port"
	"candlepath/internal/core/workflow"
)

// ErrSignIn says that name and password do not go together, without saying
// which of them is wrong.
var ErrSignIn = errors.New("name or password is not right")

// TooSoon says how long the next try to sign in has to wait.
type TooSoon struct{ Wait time.Duration }

func (e *TooSoon) Error() string {
	n := int((e.Wait + time.Second - 1) / time.Second)
	if n <= 90 {
		return fmt.Sprintf("there were too many tries; wait %d %s and try again", n, plural(n, "second", "seconds"))
	}
	return fmt.Sprintf("there were too many tries; wait %d minutes and try again", (n+59)/60)
}

// SignInAsk is a try to sign in.
type SignInAsk struct {
	Login, Password string
	Host            string // address of the client
	Browser         string // token of a browser in which somebody signed in before, or empty
}

func tokenHash(token string) []byte {
	sum := sha256.Sum256([]byte(token))
	return sum[:]
}

// SignIn checks a name and password, and gives the token by which the browser is
// known from now on. A try is noted before the password is looked at, so that
// many at once count as many.
func (a *App) SignIn(ctx context.Context, ask SignInAsk) (who port.Person, browser string, err error) {
	ask.Login = strings.ToLower(strings.TrimSpace(ask.Login))
	hash := tokenHash(ask.Browser)
	var try int64
	err = a.store.Note(ctx, func(tx port.Tx, _ port.Site) error {
		try, who, err = a.beginTry(ctx, tx, ask, hash)
		return err
	})
	if err != nil {
		return port.Person{}, "", err
	}
	stored := who.PasswordHash
	if who.ID == "" || who.Inactive || stored == "" {
		stored = unknownHash // takes as long as a known name
	}
	fits := false
	if err := a.hashing.pass(ctx, func() { fits = CheckPassword(stored, ask.Password) }); err != nil {
		return port.Person{}, "", errors.Join(err, a.forgetTry(ctx, try))
	}
	if !fits || stored == unknownHash {
		return port.Person{}, "", ErrSignIn
	}
	if browser = ask.Browser; browser == "" {
		browser = rand.Text()
		hash = tokenHash(browser)
	}
	return who, browser, a.store.Note(ctx, func(tx port.Tx, _ port.Site) error {
		if err := tx.ForgetTries(ctx, ask.Login, ask.Host, hash); err != nil {
			return err
		}
		return tx.KnowBrowser(ctx, hash, who.ID, a.now())
	})
}

// beginTry notes a try, unless it has to wait.
func (a *App) beginTry(ctx context.Context, tx port.Tx, ask SignInAsk, hash []byte) (try int64, who port.Person, err error) {
	if err := tx.LockTries(ctx, ask.Login, ask.Host); err != nil {
		return 0, who, err
	}
	who, err = tx.PersonByLogin(ctx, ask.Login)
	if err != nil && !errors.Is(err, port.ErrNotFound) {
		return 0, who, err
	}
	known := false
	if who.ID != "" && ask.Browser != "" {
		if known, err = tx.KnowsBrowser(ctx, hash, who.ID); err != nil {
			return 0, who, err
		}
	}
	var noted []byte
	if known {
		noted = hash
	}
	tries, err := tx.SignInTries(ctx, ask.Login, ask.Host, noted, a.now().Add(-workflow.TryWindow))
	if err != nil {
		return 0, who, err
	}
	if wait := tries.Wait(a.now(), known); wait > 0 {
		return 0, who, &TooSoon{wait}
	}
	try, err = tx.AddSignInTry(ctx, ask.Login, ask.Host, noted, a.now())
	return try, who, err
}

func (a *App) forgetTry(ctx context.Context, try int64) error {
	return a.store.Note(context.WithoutCancel(ctx), func(tx port.Tx, _ port.Site) error { return tx.ForgetTry(ctx, try) })
}

// Person gives the person of a session that began at a moment.
func (a *App) Person(ctx context.Context, id string, since time.Time) (port.Person, port.Site, error) {
	var p port.Person
	var site port.Site
	err := a.store.Note(ctx, func(tx port.Tx, s port.Site) error {
		site = s
		var err error
		if p, err = tx.Person(ctx, id); err != nil {
			return err
		}
		if p.Inactive || since.Before(p.SessionsSince) {
			return ErrNotFound
		}
		return nil
	})
	return p, site, err
}

// SignedOut tells every instance that a session is over.
func (a *App) SignedOut(ctx context.Context) error {
	return a.store.Note(ctx, func(tx port.Tx, _ port.Site) error { return tx.TellPeople(ctx) })
}

// CleanUp deletes what nobody needs any more.
func (a *App) CleanUp(ctx context.Context) error {
	return a.store.Note(ctx, func(tx port.Tx, s port.Site) error {
		if s.ID == "" {
			return nil
		}
		return tx.CleanUp(ctx, a.now())
	})
}
