package background

import (
	"context"
	"errors"
	"testing"
	"testing/synctest"
	"time"

	"github.com/stretchr/testify/require"
)

func TestAPanicIsAnErrorThatIsRemembered(t *testing.T) {
	var g Group
	err := g.Run("take up edition", func() error {
		var list []int
		list[len(list)-3]++ //nolint:staticcheck // a panic is wanted
		return nil
	})
	panicked := (*Panic)(nil)
	require.ErrorAs(t, err, &panicked)
	require.Contains(t, string(panicked.Stack), "background_test.go")
	require.Equal(t, []string{"take up edition"}, g.Failing())
	require.EqualValues(t, 1, g.Panics())
	g.Go("write visits", func() error { return errors.New("no database") })
	g.Go("write uses", func() error { panic("torn") })
	g.Wait()
	require.Equal(t, []string{"take up edition", "write uses"}, g.Failing())
	require.ErrorIs(t, g.Run("take up edition", func() error { return context.Canceled }), context.Canceled)
	g.Go("write uses", func() error { return nil })
	g.Wait()
	require.Empty(t, g.Failing(), "what succeeds, or was ended, fails no longer")
}

func TestWorkThatLastsIsStartedAgain(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		var g Group
		ctx, stop := context.WithCancel(t.Context())
		times := 0
		g.Keep(ctx, "listen", func(ctx context.Context) error {
			switch times++; times {
			case 1:
				panic("torn")
			case 2:
				return errors.New("connection lost")
			}
			g.Note("listen", nil)
			<-ctx.Done()
			return ctx.Err()
		})
		time.Sleep(firstRestart / 2)
		require.Equal(t, []string{"listen"}, g.Failing())
		time.Sleep(4 * firstRestart)
		require.Equal(t, 3, times)
		require.Empty(t, g.Failing())
		stop()
		g.Wait()
	})
}
