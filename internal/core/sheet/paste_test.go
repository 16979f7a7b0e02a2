package sheet_test

import (
	"fmt"
	"strings"
	"testing"

	"candlepath/internal/core/sheet"
	"candlepath/internal/core/sitemap"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestParseList(t *testing.T) {
	for name, c := range map[string]struct{ text, want string }{
		"tabs":                   {"A\n\tB\n\t\tC\n\tD\nE", "1A 2B 3C 2D 1E"},
		"spaces, any width":      {"  A\n     B\n        C\n     D\n  E", "1A 2B 3C 2D 1E"},
		"a jump is one level":    {"A\n\t\t\t\tB\n\tC", "1A 2B 2C"},
		"bullets and numbers":    {"- A\n  * B\n  • C\n1. D\n  2) E\n3.5 F", "1A 2B 2C 1D 2E 1\"3.5 F\""},
		"blank lines":            {"\n\nA\n \n\tB\n\n", "1A 2B"},
		"windows":                {"A\r\n\tB\r\n", "1A 2B"},
		"a table":                {"A\tGwen\t\n\tB\tKofi\tsoon", "1A(Gwen) 2B(Kofi; soon)"},
		"begins indented":        {"\t\tA\n\tB\nC", "1A 1B 1C"},
		"marks and control":      {"\u202eA\u0007\n\tB", "1A 2B"},
		"nothing but a bullet":   {"A\n\t- \n\t\u200e\n\tB", "1A 2- 2B"},
		"no-break space, indent": {"A\n\u00a0\u00a0B", "1A 2B"},
	} {
		records, err := sheet.ParseList(c.text)
		require.NoError(t, err, name)
		var got []string
		for _, r := range records[1:] {
			title := r.Cells[1]
			if strings.Contains(title, " ") {
				title = fmt.Sprintf("%q", title)
			}
			if r.Cells[2] != "" {
				title += "(" + r.Cells[2] + ")"
			}
			got = append(got, r.Cells[0]+title)
		}
		require.Equal(t, c.want, strings.Join(got, " "), name)
	}
}

func TestListsThatCannotBePasted(t *testing.T) {
	_, err := sheet.ParseList(" \n\t\n")
	require.ErrorIs(t, err, sheet.ErrPastedNothing)
	_, err = sheet.ParseList(strings.Repeat("x\n", 50_000))
	require.ErrorIs(t, err, sheet.ErrPastedTooMuch)
	_, err = sheet.ParseList("A\n" + strings.Repeat("x", 5000))
	long := (*sheet.LongTitleError)(nil)
	require.ErrorAs(t, err, &long)
	require.Equal(t, 2, long.Line)
}

func TestPaste(t *testing.T) {
	tree, err := sitemap.New([]sitemap.Entry{
		{ID: "h", Title: "Home", Fixed: "/", Kind: sitemap.Page, Rank: "a", Template: "topic"},
		{ID: "g", Title: "Grounds", Slug: "grounds", Kind: sitemap.Page, Rank: "b", Template: "topic"},
		{ID: "p", Parent: "g", Title: "Ponds", Slug: "ponds", Kind: sitemap.Page, Rank: "a"},
		{ID: "w", Title: "Weather", Kind: sitemap.Outside, Target: "https://weather.quillmere.example", Rank: "c"},
	})
	require.NoError(t, err)
	made := 0
	newID := func() string { made++; return fmt.Sprint("n", made) }
	got, err := sheet.Paste(tree, "Ponds\n\tNewts\nBeds\nBeds\n\tRoses", "g", newID)
	require.NoError(t, err)
	var lines []string
	for i := range got.Tree.Len() {
		lines = append(lines, got.Tree.Claim(i))
	}
	require.Equal(t, []string{"/", "/grounds", "/grounds/ponds", "/grounds/ponds/newts", "/grounds/beds", "/grounds/beds-2", "/grounds/beds-2/roses", ""}, lines)
	require.Equal(t, []int{4, 1}, []int{got.Count[sheet.IsAdded], got.Count[sheet.IsRefused]})
	_, err = sheet.Paste(tree, "A", "w", newID)
	require.ErrorIs(t, err, sitemap.ErrNoEntry)
	got, err = sheet.Paste(tree, "A\n\tB", "h", newID)
	require.NoError(t, err)
	require.Equal(t, "/a/b", got.Tree.Claim(got.Tree.Len()-1))
}

// Whatever is pasted keeps its order and levels, and no line is lost.
func TestPasteKeepsOrderAndLevels(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		none, err := sitemap.New([]sitemap.Entry{{ID: "h", Title: "Home", Fixed: "/", Kind: sitemap.Page, Rank: "a"}})
		require.NoError(t, err)
		var text strings.Builder
		var want []string
		level := 1
		for i := range rapid.IntRange(1, 30).Draw(t, "lines") {
			if i > 0 {
				level = rapid.IntRange(1, level+1).Draw(t, "level")
			}
			fmt.Fprintf(&text, "%sTitle %d\n", strings.Repeat("\t", level-1), i)
			want = append(want, fmt.Sprintf("%d Title %d", level, i))
		}
		n := 0
		got, err := sheet.Paste(none, text.String(), "", func() string { n++; return fmt.Sprint("n", n) })
		require.NoError(t, err)
		var have []string
		for i := 1; i < got.Tree.Len(); i++ {
			have = append(have, fmt.Sprintf("%d %s", got.Tree.Level(i), got.Tree.At(i).Title))
		}
		require.Equal(t, want, have)
	})
}
