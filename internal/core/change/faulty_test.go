package change_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/change"
)

func TestFaulty(t *testing.T) {
	text, added, moved := change.Key{ID: "text", Aspect: change.Content}, change.Key{ID: "new", Aspect: change.Added}, change.Key{ID: "moved", Aspect: change.Placement}
	removed := change.Key{ID: "old", Aspect: change.Removed}
	all := change.Set{text: true, added: true, moved: true, removed: true}
	deps := []change.Dependency{{Key: added, Needs: moved, Why: "its new parent"}}
	for name, c := range map[string]struct {
		fault [2]string
		want  change.Set
	}{
		"one of its own":             {[2]string{"text", ""}, change.Set{text: true}},
		"with what needs it":         {[2]string{"new", ""}, change.Set{added: true, moved: true}},
		"nothing that is selected":   {[2]string{"elsewhere", ""}, change.Set{}},
		"a link to a removed page":   {[2]string{"elsewhere", "old"}, change.Set{removed: true}},
		"a link in a selected page":  {[2]string{"text", "old"}, change.Set{text: true}},
		"a link from and to nowhere": {[2]string{"elsewhere", "nowhere"}, change.Set{}},
	} {
		require.Equal(t, c.want, change.Faulty(all, deps, [][2]string{c.fault}), name)
	}
}
