package app_test

import (
	"errors"
	"fmt"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"candlepath/internal/app/account"
	"candlepath/internal/app/plan"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/workflow"
)

const secret = "a lantern on the path"

// withPassword gives somebody a password as they would give it themselves.
func (d *desk) withPassword(login string) {
	d.t.Helper()
	token, err := d.NewPassword(d.t.Context(), d.people["marta"], d.people[login].ID)
	require.NoError(d.t, err)
	_, err = d.SetPassword(d.t.Context(), token, secret)
	require.NoError(d.t, err)
}

func (d *desk) signIn(login, password, host, browser string) (string, error) {
	_, known, err := d.SignIn(d.t.Context(), account.SignInAsk{Login: login, Password: password, Host: host, Browser: browser})
	return known, err
}

// Many tries at once count as many: all but a few are refused before a password
// is looked at.
func TestTriesAtOnceAreCounted(t *testing.T) {
	d := newDesk(t)
	d.withPassword("ines")
	var looked, refused atomic.Int32
	var work sync.WaitGroup
	for n := range 40 {
		work.Go(func() {
			_, err := d.signIn("ines", fmt.Sprint("wrong ", n), "10.0.0.9", "")
			soon := (*account.TooSoon)(nil)
			switch {
			case errors.As(err, &soon):
				refused.Add(1)
			case errors.Is(err, account.ErrSignIn):
				looked.Add(1)
			default:
				t.Errorf("unexpected: %v", err)
			}
		})
	}
	work.Wait()
	require.LessOrEqual(t, looked.Load(), int32(5))
	require.Equal(t, int32(40), looked.Load()+refused.Load())
}

// Names that nobody has cost as much as others, and many of them at once neither
// take the machine's memory nor keep everybody waiting.
func TestFewPasswordsAreLookedAtAtOnce(t *testing.T) {
	d := newDesk(t)
	var busy, looked atomic.Int32
	var work sync.WaitGroup
	for n := range 60 {
		work.Go(func() {
			_, err := d.signIn(fmt.Sprint("nobody", n), "wrong", fmt.Sprintf("10.0.1.%d", n), "")
			switch {
			case errors.Is(err, account.ErrBusy):
				busy.Add(1)
			case errors.Is(err, account.ErrSignIn):
				looked.Add(1)
			default:
				t.Errorf("unexpected: %v", err)
			}
		})
	}
	work.Wait()
	require.Positive(t, busy.Load(), "who would wait too long is told so")
	require.Positive(t, looked.Load())
}

func TestAKnownBrowserIsNotShutOut(t *testing.T) {
	d := newDesk(t)
	d.withPassword("ines")
	browser, err := d.signIn("ines", secret, "10.0.0.1", "")
	require.NoError(t, err)
	require.NotEmpty(t, browser)
	for n := range 60 { // somebody else tries and tries, from here and there
		d.now = d.now.Add(20 * time.Second)
		_, err := d.signIn("ines", "wrong", fmt.Sprintf("10.0.0.%d", 2+n%20), "")
		require.Error(t, err)
	}
	for range 9 {
		_, _ = d.signIn("ines", "wrong", "10.0.0.1", "")
	}
	soon := (*account.TooSoon)(nil)
	_, err = d.signIn("ines", secret, "10.0.0.1", "")
	require.ErrorAs(t, err, &soon, "another browser at the same place has to wait")
	_, err = d.signIn("ines", secret, "10.0.0.1", browser)
	require.NoError(t, err)
	d.now = d.now.Add(11 * time.Second)
	_, err = d.signIn("ines", secret, "10.0.0.1", "")
	require.NoError(t, err, "and then only a little")
	_, err = d.signIn("anselm", "wrong", "10.0.0.7", browser)
	require.ErrorIs(t, err, account.ErrSignIn, "a browser is known for whoever signed in there")
}

func TestPeopleComeAndGo(t *testing.T) {
	d := newDesk(t)
	ctx, marta := t.Context(), d.people["marta"]
	_, err := d.AddPerson(ctx, d.people["anselm"], plan.Person{Login: "tess", Name: "Tess", Role: workflow.Editor})
	require.ErrorIs(t, err, plan.ErrForbidden)
	for field, p := range map[string]plan.Person{
		"login": {Login: "a b", Name: "A", Role: workflow.Editor}, "name": {Login: "ab", Name: "Both; of them", Role: workflow.Editor}, "role": {Login: "ab", Name: "A", Role: "king"},
	} {
		_, err = d.AddPerson(ctx, marta, p)
		invalid := (*plan.Invalid)(nil)
		require.ErrorAs(t, err, &invalid)
		require.Equal(t, field, invalid.Field)
	}
	_, err = d.AddPerson(ctx, marta, plan.Person{Login: "INES", Name: "Another", Role: workflow.Editor})
	require.Error(t, err, "the name is taken")

	token, err := d.AddPerson(ctx, marta, plan.Person{Login: "Tess", Name: "Tess  Arden", Role: workflow.Editor})
	require.NoError(t, err)
	_, err = d.signIn("tess", "", "h", "")
	require.ErrorIs(t, err, account.ErrSignIn, "nobody gets in without a password")
	_, err = d.SetPassword(ctx, token, "short")
	require.Error(t, err)
	_, err = d.SetPassword(ctx, token, strings.Repeat("x", 300))
	require.Error(t, err)
	p, err := d.SetPassword(ctx, token, secret)
	require.NoError(t, err)
	require.Equal(t, "Tess Arden", p.Name)
	_, err = d.SetPassword(ctx, token, secret)
	require.ErrorIs(t, err, plan.ErrNotFound, "a link serves once")
	_, err = d.signIn("tess", secret, "h", "")
	require.NoError(t, err)

	began := d.now.Add(time.Second)
	d.now = began.Add(time.Second)
	_, _, err = d.Person(ctx, p.ID, began)
	require.NoError(t, err)
	require.NoError(t, d.ChangePerson(ctx, marta, p.ID, workflow.Editor, true))
	_, _, err = d.Person(ctx, p.ID, began)
	require.ErrorIs(t, err, plan.ErrNotFound, "sessions end at once")
	_, err = d.signIn("tess", secret, "h2", "")
	require.ErrorIs(t, err, account.ErrSignIn)
	require.NoError(t, d.ChangePerson(ctx, marta, p.ID, workflow.Approver, false))
	_, _, err = d.Person(ctx, p.ID, began)
	require.ErrorIs(t, err, plan.ErrNotFound, "and stay ended")
	require.Error(t, d.ChangePerson(ctx, marta, marta.ID, workflow.Editor, false), "nobody takes their own role away")

	old, err := d.NewPassword(ctx, marta, p.ID)
	require.NoError(t, err)
	_, err = d.NewPassword(ctx, marta, p.ID)
	require.NoError(t, err)
	_, err = d.SetPassword(ctx, old, secret)
	require.ErrorIs(t, err, plan.ErrNotFound, "a newer link ends the older")
	late, err := d.NewPassword(ctx, marta, p.ID)
	require.NoError(t, err)
	d.now = d.now.Add(73 * time.Hour)
	_, err = d.SetPassword(ctx, late, secret)
	require.ErrorIs(t, err, plan.ErrNotFound)
}

// What nobody needs any more goes; everything else stays.
func TestCleaningUp(t *testing.T) {
	d := newDesk(t)
	ctx := t.Context()
	d.withPassword("ines")
	_, _ = d.signIn("ines", "wrong", "h", "")
	_, err := d.pool.Exec(ctx, `INSERT INTO sessions (token, data, expiry) VALUES ('over', '', $1), ('runs', '', $2)`, d.now.Add(-time.Minute), d.now.Add(time.Hour))
	require.NoError(t, err)
	waiting, err := d.KeepFile(ctx, d.people["ines"], "plan.csv", []byte("level,title\n1,A\n"))
	require.NoError(t, err)
	count := func(q string) (n int) {
		require.NoError(t, d.pool.QueryRow(ctx, q).Scan(&n))
		return n
	}
	before := count(`SELECT count(*) FROM acts`)
	for range 3 {
		d.now = d.now.Add(48 * time.Hour)
		require.NoError(t, d.CleanUp(ctx))
	}
	require.Equal(t, 0, count(`SELECT count(*) FROM signin_tries`))
	require.Equal(t, 0, count(`SELECT count(*) FROM sessions`))
	require.Equal(t, 0, count(`SELECT count(*) FROM password_links`))
	require.Equal(t, 0, count(`SELECT count(*) FROM bring_ins WHERE state = 'written' AND data <> ''`), "a file that is in is not kept")
	_, err = d.ImportState(ctx, d.people["ines"], waiting)
	require.NoError(t, err, "one that waits is")
	d.now = d.now.Add(31 * 24 * time.Hour)
	require.NoError(t, d.CleanUp(ctx))
	_, err = d.ImportState(ctx, d.people["ines"], waiting)
	require.ErrorIs(t, err, plan.ErrNotFound, "but not for ever")
	require.Equal(t, before, count(`SELECT count(*) FROM acts`))
}

// Conflicts are found however many acts came between.
func TestConflictsAreFoundBehindManyActs(t *testing.T) {
	d := newDesk(t)
	ponds, grounds := d.id("/grounds/ponds"), d.id("/grounds")
	o, err := d.Outline(t.Context())
	require.NoError(t, err)
	seen := o.Site.PlanVersion
	for n := range 510 {
		d.act("anselm", appsitemap.PlanAct{Do: "retitle", ID: grounds, Value: fmt.Sprint("Grounds ", n)})
	}
	d.act("anselm", appsitemap.PlanAct{Do: "retitle", ID: ponds, Value: "Bogs"})
	_, err = d.Plan(t.Context(), d.people["ines"], appsitemap.PlanAct{Key: uuid.NewString(), Do: "retitle", ID: ponds, Value: "Pools", Seen: seen, Confirmed: true})
	meanwhile := (*plan.EditConflict)(nil)
	require.ErrorAs(t, err, &meanwhile)
	require.Contains(t, meanwhile.Label, "Bogs")
}
