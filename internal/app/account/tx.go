package account

import (
	"context"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/content"
	"candlepath/internal/core/setting"
	"candlepath/internal/core/workflow"
)

// Tx is what people, sign-in and settings need inside a transaction.
type Tx interface {
	plan.Tx
	Person(ctx context.Context, id string) (plan.Person, error)
	AddPerson(ctx context.Context, p plan.Person) error
	SetPerson(ctx context.Context, p plan.Person) error
	// FreeReviews makes requests to a person ones to whoever may publish, and gives those of which something
	// is in review.
	FreeReviews(ctx context.Context, person string, by plan.Planned) ([]FreedReview, error)
	// Notices gives up to n notices of a person, those not read first; Unread counts these.
	Notices(ctx context.Context, person string, n int) ([]plan.Notice, error)
	Unread(ctx context.Context, person string) (int, error)
	MarkRead(ctx context.Context, person string, id int64, all bool, at time.Time) error
	SeeNeighbour(ctx context.Context, address string, at time.Time) error
	Neighbours(ctx context.Context, since time.Time) ([]string, error)
	PutWindow(ctx context.Context, w Window) (moved bool, err error)
	DropWindows(ctx context.Context, person string, ids []string) error
	// SeeWindows notes that windows are open still, and forgets those not seen since a time.
	SeeWindows(ctx context.Context, ids []string, now, before time.Time) (forgotten int64, err error)
	Windows(ctx context.Context, since time.Time, n int) ([]Window, error)
	// TellPeople tells every instance that who is who may have changed.
	TellPeople(ctx context.Context) error
	LockTries(ctx context.Context, login, host string) error
	SignInTries(ctx context.Context, login, host string, browser []byte, since time.Time) (workflow.Tries, error)
	AddSignInTry(ctx context.Context, login, host string, browser []byte, at time.Time) (id int64, err error)
	ForgetTry(ctx context.Context, id int64) error
	ForgetTries(ctx context.Context, login, host string, browser []byte) error
	KnowsBrowser(ctx context.Context, browser []byte, person string) (bool, error)
	KnowBrowser(ctx context.Context, browser []byte, person string, at time.Time) error
	PutPasswordLink(ctx context.Context, token []byte, person string, ends time.Time) error
	PasswordLink(ctx context.Context, token []byte, now time.Time) (plan.Person, error)
	DropPasswordLinks(ctx context.Context, person string) error
	// Jobs gives up to n jobs: first those that failed, wait or run.
	Jobs(ctx context.Context, n int) ([]plan.KnownJob, error)
	RetryJob(ctx context.Context, number int64) error
	// CleanUp deletes what nobody needs any more.
	CleanUp(ctx context.Context, now time.Time) error
	CreateSite(ctx context.Context, s plan.Site) error
	SetSettings(ctx context.Context, chosen setting.Values) error
	// BeginWith gives a new site the templates that it begins with.
	BeginWith(ctx context.Context, templates []content.Template, at time.Time) error
}
