package sitemap_test

import (
	"slices"
	"testing"

	"candlepath/internal/core/sitemap"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"candlepath/internal/core/sitemap/sitemaptest"
)

func idOf(t testing.TB, tree *sitemap.Tree, title string) string {
	for i := range tree.Len() {
		if tree.Ref(i).Title == title {
			return tree.Ref(i).ID
		}
	}
	require.Fail(t, "no such title", title)
	return ""
}

func TestJoin(t *testing.T) {
	tree := planted(t, "Tools\n  Spades\n  Rakes\nHand tools\n  Trowels\n    Small trowels\nOffice")
	change := func(title string, set func(*sitemap.Entry)) {
		var err error
		tree, err = tree.Change(idOf(t, tree, title), set)
		require.NoError(t, err)
	}
	change("Tools", func(e *sitemap.Entry) { e.Topics, e.Notes = "tools", "keep" })
	change("Hand tools", func(e *sitemap.Entry) { e.Topics, e.Notes = "tools; hands", "ask Gwen" })
	for _, c := range []struct {
		name, kept, gone string
		reference        bool
		want             string
	}{
		{"children go behind those that are there", "Tools", "Hand tools", false, "Home .Tools ..Spades ..Rakes ..Trowels ...Small trowels .Office"},
		{"as a reference it stays in its place", "Tools", "Hand tools", true, "Home .Tools ..Spades ..Rakes ..Trowels ...Small trowels .Hand tools .Office"},
		{"kept below gone takes its place", "Trowels", "Hand tools", false, "Home .Tools ..Spades ..Rakes .Trowels ..Small trowels .Office"},
		{"gone below kept", "Tools", "Rakes", true, "Home .Tools ..Spades ..Rakes .Hand tools ..Trowels ...Small trowels .Office"},
		{"home takes a page in", "Home", "Hand tools", false, "Home .Tools ..Spades ..Rakes .Office .Trowels ..Small trowels"},
	} {
		kept, gone := idOf(t, tree, c.kept), idOf(t, tree, c.gone)
		joined, err := tree.Join(kept, gone, c.reference)
		require.NoError(t, err, c.name)
		require.Equal(t, c.want, outlined(joined), c.name)
		if c.reference {
			e := joined.At(joined.Find(gone))
			require.Equal(t, []string{"reference", kept, ""}, []string{string(e.Kind), e.Target, e.Slug}, c.name)
		}
	}
	joined, err := tree.Join(idOf(t, tree, "Tools"), idOf(t, tree, "Hand tools"), false)
	require.NoError(t, err)
	e := joined.At(joined.Find(idOf(t, tree, "Tools")))
	require.Equal(t, []string{"tools; hands", "keep\nask Gwen"}, []string{e.Topics, e.Notes})

	for _, bad := range [][2]string{{"Tools", "Tools"}, {"Tools", "Home"}} {
		_, err := tree.Join(idOf(t, tree, bad[0]), idOf(t, tree, bad[1]), false)
		require.ErrorIs(t, err, sitemap.ErrNotTwoPages)
	}
	_, err = tree.Join("e1", "nothing", false)
	require.ErrorIs(t, err, sitemap.ErrNoEntry)
}

// Joining loses no entry but the one that goes, leads every reference to it to
// the page kept, and its patches undo it.
func TestJoiningLosesNothing(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var author sitemaptest.Author
		tree := author.Small(t, 10)
		for range rapid.IntRange(0, 4).Draw(t, "edits") {
			tree = author.Edit(t, tree)
		}
		pick := func(name string) string { return tree.At(rapid.IntRange(0, tree.Len()-1).Draw(t, name)).ID }
		kept, gone, asReference := pick("kept"), pick("gone"), rapid.Bool().Draw(t, "reference")
		joined, err := tree.Join(kept, gone, asReference)
		if err != nil {
			require.ErrorIs(t, err, sitemap.ErrNotTwoPages)
			return
		}
		for i := range tree.Len() {
			e := tree.At(i)
			j := joined.Find(e.ID)
			if e.ID == gone {
				require.Equal(t, asReference, j != sitemap.None)
				continue
			}
			require.NotEqual(t, sitemap.None, j, e.ID)
			if at := joined.At(j); e.Kind == sitemap.Reference && e.Target == gone {
				require.Equal(t, kept, at.Target)
			} else {
				require.Equal(t, []string{e.Title, string(e.Kind), e.Target, e.Owner}, []string{at.Title, string(at.Kind), at.Target, at.Owner})
			}
		}
		back, err := joined.Apply(sitemap.Reverse(sitemap.Patches(tree, joined)))
		require.NoError(t, err)
		require.Empty(t, sitemap.Patches(tree, back))
	})
}

func TestStepsOfSeveral(t *testing.T) {
	tree := planted(t, "a\nb\n  b1\nc\nd\n  d1")
	for _, c := range []struct {
		ids  []string
		step sitemap.Step
		want string
		err  error
	}{
		{[]string{"c", "b"}, sitemap.Up, "Home .b ..b1 .c .a .d ..d1", nil},
		{[]string{"b", "b1", "c"}, sitemap.Down, "Home .a .d ..d1 .b ..b1 .c", nil},
		{[]string{"c", "d"}, sitemap.In, "Home .a .b ..b1 ..c ..d ...d1", nil},
		{[]string{"b1"}, sitemap.Out, "Home .a .b .b1 .c .d ..d1", nil},
		{[]string{"a", "c"}, sitemap.Down, "Home .b ..b1 .d ..d1 .a .c", nil},
		{[]string{"b1", "d1"}, sitemap.Out, "", sitemap.ErrNotSiblings},
		{[]string{"a", "b"}, sitemap.Up, "", sitemap.ErrNowhere},
		{[]string{"a"}, sitemap.In, "", sitemap.ErrNowhere},
		{nil, sitemap.In, "", sitemap.ErrNowhere},
		{[]string{"Home"}, sitemap.Down, "", sitemap.ErrHome},
	} {
		ids := slices.Clone(c.ids)
		for k, title := range ids {
			ids[k] = idOf(t, tree, title)
		}
		next, err := tree.StepAll(ids, c.step)
		require.ErrorIs(t, err, c.err, "%v %s", c.ids, c.step)
		if err == nil {
			require.Equal(t, c.want, outlined(next), "%v %s", c.ids, c.step)
		}
	}
}
