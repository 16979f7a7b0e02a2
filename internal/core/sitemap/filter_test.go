package sitemap

import (
	"testing"

	"github.com/stretchr/testify/require"
)

func TestFilters(t *testing.T) {
	o := CheckOptions{People: map[string]bool{"Gwen Hale": true}, Today: "2026-11-26"}
	for name, c := range map[string]struct {
		entry Entry
		want  []string
	}{
		"a page that is looked after":         {Entry{Kind: Page, Owner: "Gwen Hale", Review: "2026-11-26"}, nil},
		"a review that was due yesterday":     {Entry{Kind: Page, Owner: "Gwen Hale", Review: "2026-11-25"}, []string{"review"}},
		"a date that is none is never passed": {Entry{Kind: Page, Owner: "Gwen Hale", Review: "soon"}, nil},
		"everything at once":                  {Entry{Kind: Page, Owner: "Nobody Here", Unlisted: true, Notes: "x"}, []string{"unlisted", "notes", "unknown"}},
		"a page without an owner":             {Entry{Kind: Carried}, []string{"no-owner"}},
		"a link needs no owner":               {Entry{Kind: Outside}, nil},
	} {
		require.Equal(t, c.want, Fitting(&c.entry, o), name)
	}
	require.Empty(t, Fitting(&Entry{Kind: Page, Owner: "Anybody", Review: "2020-01-01"}, CheckOptions{}), "without people and a day nothing is known")
	keys := map[string]bool{}
	for _, f := range Filters() {
		require.False(t, keys[f.Key], f.Key)
		require.NotEmpty(t, f.Words)
		keys[f.Key] = true
	}
}

func TestTopicsOfATree(t *testing.T) {
	tree, err := New([]Entry{{ID: "a", Title: "A", Slug: "a", Kind: Page, Topics: "tea; cake", Rank: "a"}, {ID: "b", Title: "B", Slug: "b", Kind: Page, Topics: "tea", Rank: "b"}})
	require.NoError(t, err)
	require.Equal(t, []string{"cake", "tea"}, tree.Topics())
}

func TestInheritedTemplate(t *testing.T) {
	page := func(id, parent, template string) Entry {
		return Entry{ID: id, Title: id, Slug: id, Parent: parent, Kind: Page, Template: template, Rank: id}
	}
	tree, err := New([]Entry{
		{ID: "h", Title: "Home", Fixed: "/", Kind: Page, Template: "home"},
		page("a", "", "section"), page("b", "", "topic"), page("c", "", "section"), page("d", "b", "procedure"),
		{ID: "g", Title: "G", Kind: Group, Parent: "d", Rank: "g"},
	})
	require.NoError(t, err)
	for parent, want := range map[string]string{"": "section", "gone": "section", "a": "section", "b": "procedure", "d": "procedure"} {
		require.Equal(t, want, tree.InheritedTemplate(parent), parent)
	}
	bare, err := New(nil)
	require.NoError(t, err)
	require.Empty(t, bare.InheritedTemplate(""))
}
