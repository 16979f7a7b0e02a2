package menu_test

import (
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"candlepath/internal/core/menu"
)

func TestMeetOfItems(t *testing.T) {
	shown := menu.ItemOverride{Title: "Shop", Symbol: "bag"}
	for name, c := range map[string]struct {
		now, wanted, want menu.ItemOverride
		met               *menu.Met
	}{
		"nobody else":            {shown, menu.ItemOverride{Title: "Our shop", Symbol: "bag"}, menu.ItemOverride{Title: "Our shop", Symbol: "bag"}, nil},
		"another fact of it":     {menu.ItemOverride{Title: "Shop", Symbol: "leaf"}, menu.ItemOverride{Title: "Our shop", Symbol: "bag"}, menu.ItemOverride{Title: "Our shop", Symbol: "leaf"}, nil},
		"the same, alike":        {menu.ItemOverride{Title: "Our shop", Symbol: "bag"}, menu.ItemOverride{Title: "Our shop", Symbol: "bag"}, menu.ItemOverride{Title: "Our shop", Symbol: "bag"}, nil},
		"the same, otherwise":    {menu.ItemOverride{Title: "Till", Symbol: "bag"}, menu.ItemOverride{Title: "Our shop", Symbol: "bag"}, menu.ItemOverride{Title: "Till", Symbol: "bag"}, &menu.Met{What: "label", Theirs: "Till", Mine: "Our shop"}},
		"taken away":             {menu.ItemOverride{Symbol: "bag"}, menu.ItemOverride{Title: "Our shop", Symbol: "bag"}, menu.ItemOverride{Symbol: "bag"}, &menu.Met{What: "label", Mine: "Our shop"}},
		"levels":                 {menu.ItemOverride{Title: "Shop", Symbol: "bag", Levels: 2}, menu.ItemOverride{Title: "Shop", Symbol: "bag", Levels: 1}, menu.ItemOverride{Title: "Shop", Symbol: "bag", Levels: 2}, &menu.Met{What: "levels below it", Theirs: "2", Mine: "1"}},
		"left out by others":     {menu.ItemOverride{Title: "Shop", Symbol: "bag", Out: true}, menu.ItemOverride{Title: "Our shop", Symbol: "bag"}, menu.ItemOverride{Title: "Our shop", Symbol: "bag", Out: true}, nil},
		"one of them is met, so": {menu.ItemOverride{Title: "Till", Symbol: "bag"}, menu.ItemOverride{Title: "Our shop", Symbol: "leaf"}, menu.ItemOverride{Title: "Till", Symbol: "leaf"}, &menu.Met{What: "label", Theirs: "Till", Mine: "Our shop"}},
	} {
		t.Run(name, func(t *testing.T) {
			got, met := c.now.Meet(shown, c.wanted)
			require.Equal(t, c.want, got)
			require.Equal(t, c.met, met)
		})
	}
}

// Whoever saw what stands there gets what they want, and who changes nothing changes nothing.
func TestMeetOfSettings(t *testing.T) {
	settings := rapid.Custom(func(t *rapid.T) menu.Settings {
		return menu.Settings{
			Of: rapid.SampledFrom([]string{"", "a", "b"}).Draw(t, "of"), Levels: rapid.IntRange(0, 2).Draw(t, "levels"),
			AZ: rapid.Bool().Draw(t, "az"), Wait: rapid.Bool().Draw(t, "wait"),
		}
	})
	rapid.Check(t, func(t *rapid.T) {
		now, was, wanted := settings.Draw(t, "now"), settings.Draw(t, "was"), settings.Draw(t, "wanted")
		got, met := now.Meet(now, wanted)
		require.Equal(t, wanted, got)
		require.Nil(t, met)
		got, met = now.Meet(was, was)
		require.Equal(t, now, got)
		require.Nil(t, met)
		if got, met = now.Meet(was, wanted); met != nil {
			require.NotEqual(t, met.Theirs, met.Mine)
			require.NotEqual(t, wanted, got)
		}
	})
}
