package account

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"errors"
	"fmt"
	"strings"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/workflow"
)

// ErrSignIn says that name and password do not go together, without saying
// which of them is wrong.
var ErrSignIn = errors.New("the name or the password is wrong")

// TooSoon says how long the next try to sign in has to wait.
type TooSoon struct{ Wait time.Duration }

func (e *TooSoon) Error() string {
	n := int((e.Wait + time.Second - 1) / time.Second)
	if n <= 90 {
		return fmt.Sprintf("there were too many tries; wait %d %s and try again", n, plan.Plural(n, "second", "seconds"))
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
func (a *Account) SignIn(ctx context.Context, ask SignInAsk) (who plan.Person, browser string, err error) {
	ask.Login = strings.ToLower(strings.TrimSpace(ask.Login))
	hash := tokenHash(ask.Browser)
	var try int64
	err = a.Store.WriteUnlocked(ctx, func(tx Tx, _ plan.Site) error {
		try, who, err = a.beginTry(ctx, tx, ask, hash)
		return err
	})
	if err != nil {
		return plan.Person{}, "", err
	}
	stored := who.PasswordHash
	if who.ID == "" || who.Inactive || stored == "" {
		stored = unknownHash // takes as long as a known name
	}
	fits := false
	if err := a.hashing.pass(ctx, func() { fits = CheckPassword(stored, ask.Password) }); err != nil {
		return plan.Person{}, "", errors.Join(err, a.forgetTry(ctx, try))
	}
	if !fits || stored == unknownHash {
		return plan.Person{}, "", ErrSignIn
	}
	if browser = ask.Browser; browser == "" {
		browser = rand.Text()
		hash = tokenHash(browser)
	}
	return who, browser, a.Store.WriteUnlocked(ctx, func(tx Tx, _ plan.Site) error {
		if err := tx.ForgetTries(ctx, ask.Login, ask.Host, hash); err != nil {
			return err
		}
		return tx.KnowBrowser(ctx, hash, who.ID, a.Now())
	})
}

// beginTry notes a try, unless it has to wait.
func (a *Account) beginTry(ctx context.Context, tx Tx, ask SignInAsk, hash []byte) (try int64, who plan.Person, err error) {
	if err := tx.LockTries(ctx, ask.Login, ask.Host); err != nil {
		return 0, who, err
	}
	who, err = tx.PersonByLogin(ctx, ask.Login)
	if err != nil && !errors.Is(err, plan.ErrNotFound) {
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
	tries, err := tx.SignInTries(ctx, ask.Login, ask.Host, noted, a.Now().Add(-workflow.TryWindow))
	if err != nil {
		return 0, who, err
	}
	if wait := tries.Wait(a.Now(), known); wait > 0 {
		return 0, who, &TooSoon{wait}
	}
	try, err = tx.AddSignInTry(ctx, ask.Login, ask.Host, noted, a.Now())
	return try, who, err
}

func (a *Account) forgetTry(ctx context.Context, try int64) error {
	return a.Store.WriteUnlocked(context.WithoutCancel(ctx), func(tx Tx, _ plan.Site) error { return tx.ForgetTry(ctx, try) })
}

// Person gives the person of a session that began at a moment.
func (a *Account) Person(ctx context.Context, id string, since time.Time) (plan.Person, plan.Site, error) {
	var p plan.Person
	var site plan.Site
	err := a.Store.WriteUnlocked(ctx, func(tx Tx, s plan.Site) error {
		site = s
		var err error
		if p, err = tx.Person(ctx, id); err != nil {
			return err
		}
		if p.Inactive || since.Before(p.SessionsSince) {
			return plan.ErrNotFound
		}
		p.Unread, err = tx.Unread(ctx, p.ID)
		return err
	})
	return p, site, err
}

// SignedOut tells every instance that a session is over.
func (a *Account) SignedOut(ctx context.Context) error {
	return a.Store.WriteUnlocked(ctx, func(tx Tx, _ plan.Site) error { return tx.TellPeople(ctx) })
}

// CleanUp deletes what nobody needs any more.
func (a *Account) CleanUp(ctx context.Context) error {
	return a.Store.WriteUnlocked(ctx, func(tx Tx, s plan.Site) error {
		if s.ID == "" {
			return nil
		}
		return tx.CleanUp(ctx, a.Now())
	})
}
