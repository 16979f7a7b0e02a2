package findability_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"candlepath/internal/core/findability"
)

var garden = findability.New([]findability.Node{
	{ID: "g", Title: "Grounds"},
	{ID: "m", Parent: "g", Title: "Machines"},
	{ID: "c", Parent: "m", Title: "Book the chipper"},
	{ID: "k", Parent: "g", Title: "Compost"},
	{ID: "v", Title: "Visitors"},
	{ID: "s", Parent: "v", Title: "Shop"},
})

func TestJudge(t *testing.T) {
	for name, c := range map[string]struct {
		opened []string
		chosen string
		want   findability.Outcome
	}{
		"straight there":         {[]string{"g", "m", "c"}, "c", findability.Outcome{Found: true, Direct: true, First: true}},
		"from above, as a child": {[]string{"g", "m"}, "c", findability.Outcome{Found: true, Direct: true, First: true}},
		"with a turn":            {[]string{"g", "k", "g", "m"}, "c", findability.Outcome{Found: true, First: true, Astray: []string{"k"}}},
		"wrong first":            {[]string{"v", "g", "m"}, "c", findability.Outcome{Found: true, Astray: []string{"v"}}},
		"somewhere else":         {[]string{"v", "s"}, "s", findability.Outcome{Astray: []string{"v", "s"}}},
		"given up":               {[]string{"g"}, "", findability.Outcome{First: true}},
		"given up at once":       {nil, "", findability.Outcome{}},
		"unknown entries":        {[]string{"x"}, "y", findability.Outcome{Astray: []string{"x"}}},
	} {
		require.Equal(t, c.want, garden.Judge(findability.Try{Opened: c.opened, Chosen: c.chosen}, []string{"c"}), name)
	}
}

func TestSumAndDifference(t *testing.T) {
	var tries []findability.Try
	for i := range 10 {
		try := findability.Try{Opened: []string{"g", "m"}, Chosen: "c", Took: time.Duration(i) * time.Second}
		if i < 3 {
			try = findability.Try{Opened: []string{"v", "s"}, Chosen: "s", Took: time.Minute}
		}
		tries = append(tries, try)
	}
	r := garden.Sum(tries, []string{"c"})
	require.Equal(t, []int{10, 7, 7, 7}, []int{r.Tries, r.Found.N, r.Direct.N, r.First.N})
	require.InDelta(t, 0.397, r.Found.Low, 0.001, "Wilson's interval of 7 of 10")
	require.InDelta(t, 0.892, r.Found.High, 0.001)
	require.Equal(t, []findability.Astray{{ID: "s", N: 3}, {ID: "v", N: 3}}, r.Astray)
	require.Equal(t, []findability.Astray{{ID: "c", N: 7}, {ID: "s", N: 3}}, r.Chosen)
	require.Equal(t, 8*time.Second, r.Median)

	lines, gaveUp := garden.Drawn(r, []string{"c"})
	require.Equal(t, []findability.Line{
		{Node: garden.Node("g"), Level: 1, Leads: true},
		{Node: garden.Node("m"), Level: 2, Leads: true},
		{Node: garden.Node("c"), Level: 3, Chosen: 7, Right: true, Leads: true},
		{Node: garden.Node("v"), Level: 1, Astray: 3},
		{Node: garden.Node("s"), Level: 2, Astray: 3, Chosen: 3},
	}, lines, "what nobody opened is left out")
	require.Zero(t, gaveUp)
	_, gaveUp = garden.Drawn(garden.Sum(make([]findability.Try, 2), nil), nil)
	require.Equal(t, 2, gaveUp)

	// Newcombe's example: 56 of 70 and 48 of 80.
	a, b := share(56, 70), share(48, 80)
	d := a.Less(b)
	require.InDelta(t, 0.2, d.By, 1e-9)
	require.InDelta(t, 0.0524, d.Low, 0.0005)
	require.InDelta(t, 0.3339, d.High, 0.0005)
	require.True(t, d.Clear())
	require.False(t, share(1, 3).Less(share(1, 2)).Clear())
	require.Zero(t, garden.Sum(nil, []string{"c"}).Found.Part())
}

// share sums tries of which n of so many found it.
func share(n, of int) findability.Share {
	tries := make([]findability.Try, of)
	for i := range n {
		tries[i].Chosen = "c"
	}
	return garden.Sum(tries, []string{"c"}).Found
}

func TestSharesLieInTheirInterval(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		of := rapid.IntRange(1, 60).Draw(t, "of")
		n := rapid.IntRange(0, of).Draw(t, "n")
		s := share(n, of)
		require.LessOrEqual(t, s.Low, s.Part()+1e-9)
		require.GreaterOrEqual(t, s.High, s.Part()-1e-9)
		require.GreaterOrEqual(t, s.Low, 0.0)
		require.LessOrEqual(t, s.High, 1.0)
	})
}
