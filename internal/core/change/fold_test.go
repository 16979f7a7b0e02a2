package change_test

import (
	"slices"
	"testing"

	"candlepath/internal/core/change"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/sitemap"
)

func TestFolded(t *testing.T) {
	live, err := sitemap.New([]sitemap.Entry{{ID: "g", Title: "Grounds", Slug: "grounds", Kind: sitemap.Page, Rank: "a"}, {ID: "o", Title: "Old", Slug: "old", Kind: sitemap.Page, Rank: "b"}})
	require.NoError(t, err)
	next := live
	for _, e := range [][2]string{{"a", "g"}, {"b", "a"}, {"c", "b"}, {"d", ""}, {"e", "d"}} {
		next, err = next.Add(sitemap.Entry{ID: e[0], Title: e[0], Kind: sitemap.Page}, next.Last(e[1]))
		require.NoError(t, err)
	}
	next, err = next.Move("o", next.Last("c"))
	require.NoError(t, err)
	all := append(change.Diff(live, next), change.Change{Key: change.Key{ID: "c", Aspect: change.Content}})
	f := change.Fold(next, all)
	top, below, inside := map[string]string{}, map[string]int{}, map[string][]string{}
	for i := range next.Len() {
		id := next.Ref(i).ID
		if at := f.Top(id); at != "" {
			top[id] = at
		}
		if n := f.Below(id); n > 0 {
			below[id], inside[id] = n, slices.Collect(f.Inside(id))
		}
	}
	require.Equal(t, map[string]string{"b": "a", "c": "a", "e": "d"}, top, "what moved below stands for itself")
	require.Equal(t, map[string]int{"a": 2, "b": 1, "d": 1}, below)
	require.Equal(t, map[string][]string{"a": {"b"}, "b": {"c"}, "d": {"e"}}, inside)
	require.Empty(t, change.Fold(live, nil).Top("g"))
}

func TestGroups(t *testing.T) {
	is := func(id string, a change.Aspect) change.Change {
		return change.Change{Key: change.Key{ID: id, Aspect: a}}
	}
	all := []change.Change{is("a", change.Added), is("b", change.Readdressed), is("b", change.Title), is("b", change.Details), is("c", change.Readdressed), is("d", change.Title), is("b", change.Content), is("menu:top", change.Menu)}
	was := slices.Clone(all)
	require.Equal(t, []change.Group{
		{ID: "a", New: true, Changes: []change.Change{all[0]}},
		{ID: "b", Changes: []change.Change{all[2], all[3], all[6]}},
		{ID: "d", Changes: []change.Change{all[5]}},
		{ID: "menu:top", Changes: []change.Change{all[7]}},
	}, change.Groups(all))
	require.Equal(t, was, all, "the list stays as it is")
}
