package navigation

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/app/navigation"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/listing"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/web/studio/shell"
)

// Hundreds of boards are shown a page at a time, all of them or those with something wrong.
func TestBoardsComeInPages(t *testing.T) {
	tree, err := sitemap.New([]sitemap.Entry{{ID: "home", Title: "Home", Kind: sitemap.Page}})
	require.NoError(t, err)
	list := navigation.BoardList{Trees: plan.Trees{Next: tree}}
	for i := range 250 {
		b := navigation.PageBoard{Entry: "home", Address: fmt.Sprint("/", i)}
		if i%2 == 0 {
			b.Board = listing.Board{Faults: []string{"it shows nothing"}}
		}
		list.Boards = append(list.Boards, b)
	}
	for _, c := range []struct {
		wrong       bool
		page        int
		first, last string
		prev, next  string
	}{
		{false, 1, "/0", "/99", "", "/studio/menus/boards?page=2"},
		{false, 3, "/200", "/249", "/studio/menus/boards?page=2", ""},
		{true, 2, "/200", "/248", "/studio/menus/boards?only=wrong", ""},
		{false, 99, "/200", "/249", "/studio/menus/boards?page=2", ""},
	} {
		v := newBoardsView(shell.Frame{}, list, c.wrong, c.page)
		require.Equal(t, []string{c.first, c.last, c.prev, c.next}, []string{v.Rows[0].Address, v.Rows[len(v.Rows)-1].Address, v.Prev, v.Next}, c)
	}
	require.Empty(t, newBoardsView(shell.Frame{}, navigation.BoardList{}, true, 1).Rows)
}
