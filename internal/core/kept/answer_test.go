package kept_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/kept"
)

func TestFilesThatStop(t *testing.T) {
	files := []kept.File{{ID: "old", Name: "old.pdf", ReplacedBy: "plan", Before: true}, {ID: "plan", Name: "plan.pdf", Before: true}, {ID: "mark", Name: "mark.svg", Before: true}, {ID: "gone", Name: "gone.pdf", Before: true}}
	on := map[string][]string{"plan": {"ponds", "compost"}, "mark": {"ponds"}, "old": {"ponds"}}
	mark := func(id string) bool { return id == "mark" }
	for _, c := range []struct {
		leave string
		stop  []string
	}{
		{"", nil},
		{"ponds", nil}, // plan.pdf is on another page, and answers for old.pdf; the mark is on every page
		{"compost", nil},
		{"ponds compost", []string{"old.pdf", "plan.pdf"}},
	} {
		stays := func(entry string) bool { return c.leave != "ponds compost" && entry != c.leave }
		require.Equal(t, c.stop, kept.Stopping(files, kept.Shown(on, mark, func(string) bool { return true }), kept.Shown(on, mark, stays)), c.leave)
	}
}
