package textdiff_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"candlepath/internal/core/textdiff"
)

// told writes runs as [gone→come].
func told(runs []textdiff.Run) string {
	var out strings.Builder
	for i, r := range runs {
		switch {
		case r.Kind == textdiff.Same:
			out.WriteString(r.Text)
		case r.Kind == textdiff.Gone && i+1 < len(runs) && runs[i+1].Kind == textdiff.Come:
			out.WriteString("[" + r.Text + "→")
		case r.Kind == textdiff.Gone:
			out.WriteString("[" + r.Text + "→]")
		case i > 0 && runs[i-1].Kind == textdiff.Gone:
			out.WriteString(r.Text + "]")
		default:
			out.WriteString("[→" + r.Text + "]")
		}
	}
	return out.String()
}

func TestCompare(t *testing.T) {
	for _, c := range [][3]string{
		{"", "", ""},
		{"same", "same", "same"},
		{"", "new", "[→new]"},
		{"old", "", "[old→]"},
		{"Open from nine to five.", "Open from ten to five, daily.", "Open from [nine →ten ]to [five.→five, daily.]"},
		{"one\ntwo\nthree\n", "one\nthree\n", "one\n[two\n→]three\n"},
		{"one\nthree\n", "one\ntwo\nthree\n", "one\n[→two\n]three\n"},
		{"a b c\nd e f\n", "a x c\nd e f\ng\n", "a [b →x ]c\nd e f\n[→g\n]"},
		{"Überwinterung  & Schutz", "Überwinterung & Schutz", "[Überwinterung  →Überwinterung ]& Schutz"},
	} {
		require.Equal(t, c[2], told(textdiff.Compare(c[0], c[1])), "%q and %q", c[0], c[1])
	}
}

// Both texts come out again, nothing differs where they are the same, and no fewer tokens
// could differ.
func TestBothTextsComeOutAgain(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		text := rapid.StringOfN(rapid.SampledFrom([]rune("ab \n")), 0, 40, -1)
		a, b := text.Draw(t, "before"), text.Draw(t, "after")
		before, after := textdiff.Sides(textdiff.Compare(a, b))
		require.Equal(t, a, joined(before))
		require.Equal(t, b, joined(after))
		for _, r := range textdiff.Compare(a, a) {
			require.Equal(t, textdiff.Same, r.Kind)
		}
	})
}

// TestTheFewestLinesDiffer compares with the table of longest common subsequences.
func TestTheFewestLinesDiffer(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		line := rapid.SliceOfN(rapid.SampledFrom([]string{"a\n", "b\n", "c\n"}), 0, 12)
		a, b := line.Draw(t, "before"), line.Draw(t, "after")
		same := 0
		for _, r := range textdiff.Compare(strings.Join(a, ""), strings.Join(b, "")) {
			if r.Kind == textdiff.Same {
				same += strings.Count(r.Text, "\n")
			}
		}
		require.Equal(t, longest(a, b), same)
	})
}

func longest(a, b []string) int {
	if len(a) == 0 || len(b) == 0 {
		return 0
	}
	if a[0] == b[0] {
		return 1 + longest(a[1:], b[1:])
	}
	return max(longest(a[1:], b), longest(a, b[1:]))
}

func TestTwoEmptyTextsHaveNoRuns(t *testing.T) {
	require.Equal(t, []textdiff.Run{}, textdiff.Compare("", ""), "a list, also as JSON")
}

// Long texts with next to nothing in common are given up on, at the cost of their length.
func TestTextsWithNothingInCommon(t *testing.T) {
	long := func(word string) string { return strings.Repeat(word+" and so on to the end of the line\n", 40_000) }
	began := time.Now()
	require.Len(t, textdiff.Compare(long("gone"), strings.ToUpper(long("come"))), 2)
	require.Less(t, time.Since(began), 20*time.Second)
	a, b := strings.Repeat("x y z ", 3000), strings.Repeat("p q r ", 3000)
	require.Equal(t, []textdiff.Run{{Kind: textdiff.Gone, Text: a}, {Kind: textdiff.Come, Text: b}}, textdiff.Compare(a, b))
}

func joined(runs []textdiff.Run) (s string) {
	for _, r := range runs {
		s += r.Text
	}
	return s
}
