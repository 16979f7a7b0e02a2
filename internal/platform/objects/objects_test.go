package objects_test

import (
	"io"
	"io/fs"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"candlepath/internal/platform/objects"
)

func TestObjectsAreKept(t *testing.T) {
	for _, where := range []string{"mem://", filepath.Join(t.TempDir(), "a folder", "files")} {
		o, err := objects.Open(t.Context(), where)
		require.NoError(t, err)
		_, _, err = o.Get(t.Context(), "a")
		require.ErrorIs(t, err, fs.ErrNotExist)
		require.NoError(t, o.Put(t.Context(), "a", strings.NewReader("one")))
		require.NoError(t, o.Put(t.Context(), "a", strings.NewReader("other")))
		r, n, err := o.Get(t.Context(), "a")
		require.NoError(t, err)
		b, err := io.ReadAll(r)
		require.NoError(t, err)
		require.NoError(t, r.Close())
		require.Equal(t, "other", string(b))
		require.EqualValues(t, 5, n)
		for before, keys := range map[time.Time][]string{time.Now().Add(time.Minute): {"a"}, time.Now().Add(-time.Minute): nil} {
			var old []string
			require.NoError(t, o.Older(t.Context(), before, func(key string) error { old = append(old, key); return nil }))
			require.Equal(t, keys, old)
		}
		require.NoError(t, o.Delete(t.Context(), "a"))
		require.NoError(t, o.Delete(t.Context(), "a"), "it is gone already")
		require.NoError(t, o.Close())
	}
	_, err := objects.Open(t.Context(), "nothing://x")
	require.Error(t, err)
}
