package shell

import (
	"context"
	"net/http/httptest"
	"strings"
	"sync/atomic"
	"testing"
	"testing/synctest"
	"time"

	"github.com/stretchr/testify/require"

	"candlepath/internal/app/account"
	"candlepath/internal/app/plan"
	"candlepath/internal/platform/background"
)

type fakeWork struct {
	asked atomic.Int64
	here  []account.Here
}

func (f *fakeWork) Come(context.Context, plan.Person, ...account.Window) error { return nil }
func (f *fakeWork) Leave(context.Context, plan.Person, []string) error         { return nil }
func (f *fakeWork) StillOpen(context.Context, []string) error                  { return nil }
func (f *fakeWork) WhoIsHere(context.Context) ([]account.Here, error)          { return f.here, nil }

func (f *fakeWork) SiteNow(context.Context) (plan.Site, error) {
	return plan.Site{Edition: 3, PlanVersion: f.asked.Add(1)}, nil
}

// Many announcements are told once, windows are bounded, and a connection ends when its window is
// closed, its time is over or the program ends.
func TestWindowsAreTold(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		f := &fakeWork{}
		l := NewLive(f, &background.Group{})
		l.Announced(t.Context(), "plan")
		time.Sleep(time.Second)
		require.Zero(t, f.asked.Load(), "nobody listens")
		w, err := l.open("one", "ines")
		require.NoError(t, err)
		rec := httptest.NewRecorder()
		over := make(chan error, 1)
		ended := make(chan struct{})
		go func() { over <- w.send(t.Context(), rec, ended) }()
		for range 50 {
			l.Announced(t.Context(), "plan")
		}
		l.Announced(t.Context(), "lock some-page")
		time.Sleep(time.Second)
		require.EqualValues(t, 1, f.asked.Load())
		time.Sleep(time.Minute)
		close(ended)
		require.NoError(t, <-over)
		text := rec.Body.String()
		require.Equal(t, 1, strings.Count(text, "event: plan\ndata: {\"version\":1,\"edition\":3}\n\n"))
		require.Contains(t, text, "event: lock\ndata: \"some-page\"\n\n")
		require.Contains(t, text, ": still here\n\n")

		again, err := l.open("one", "ines")
		require.NoError(t, err)
		require.False(t, l.close(w), "the window has another connection by now")
		require.NoError(t, w.send(t.Context(), rec, nil), "and this one ends")
		_, err = l.open("one", "noor")
		require.ErrorIs(t, err, errFull, "nobody else opens it")
		require.True(t, l.close(again))
		for k := range mostOfPerson {
			_, err := l.open(strings.Repeat("w", k+1), "ines")
			require.NoError(t, err)
		}
		_, err = l.open("more", "ines")
		require.ErrorIs(t, err, errFull)
		_, err = l.open("other", "noor")
		require.NoError(t, err)
	})
}
