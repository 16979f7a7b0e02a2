package setting_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/setting"
)

// Every setting is whole: it stands in a group, is asked for in a known way, and
// its usual value is one that it takes.
func TestSettingsAreWhole(t *testing.T) {
	groups := []setting.Group{setting.Looks, setting.Limits, setting.Addresses, setting.Publishing}
	kinds := []setting.Kind{setting.Line, setting.Colour, setting.Symbol, setting.Number, setting.Switch, setting.Hosts}
	seen, at := map[setting.Key]bool{}, 0
	for _, s := range setting.All() {
		require.False(t, seen[s.Key], "%s stands twice", s.Key)
		seen[s.Key] = true
		require.NotEmpty(t, s.Label, s.Key)
		require.Contains(t, kinds, s.Kind, s.Key)
		require.Contains(t, groups[at:], s.Group, "the rows of a group stand together: %s", s.Key)
		for groups[at] != s.Group {
			at++
		}
		if s.Required && s.Usual == "" {
			continue
		}
		got, err := s.Parse(s.Usual)
		require.NoError(t, err, s.Key)
		require.Equal(t, s.Usual, got, s.Key)
		require.Equal(t, s.Usual, setting.Values{}.Text(s.Key))
	}
}

func TestParse(t *testing.T) {
	for _, c := range []struct {
		key        setting.Key
		given, out string
		refused    string
	}{
		{setting.SiteName, "  Quillmere \t Inside ", "Quillmere Inside", ""},
		{setting.SiteName, "   ", "", "at least one"},
		{setting.SiteName, strings.Repeat("ä", 60), strings.Repeat("ä", 60), ""},
		{setting.SiteName, strings.Repeat("ä", 61), "", "these are 61"},
		{setting.Accent, "7a2e5a", "#7A2E5A", ""},
		{setting.Accent, "#7FB58C", "", "to 1 on white; text needs 4.5"},
		{setting.Accent, "javascript:", "", "like #2E5A3E"},
		{setting.Mark, "leaf", "leaf", ""},
		{setting.Mark, "/files/1/mark.png", "/files/1/mark.png", ""},
		{setting.Mark, "../x", "", "choose one"},
		{setting.Mark, "", "", "choose one"},
		{setting.Foot, "", "", ""},
		{setting.Foot, strings.Repeat("x", 301), "", "at most 300"},
		{setting.OldHosts, " Staff.quillmere.example  wiki.quillmere.example", "staff.quillmere.example wiki.quillmere.example", ""},
		{setting.OldHosts, "", "", ""},
		{setting.OldHosts, "https://staff.quillmere.example", "", "no name of a host"},
		{setting.OldHosts, "a..b", "", "no name of a host"},
		{setting.OldHosts, "-a.b", "", "no name of a host"},
		{setting.MostClicks, " 20 ", "20", ""},
		{setting.MostClicks, "0", "", "from 1 to 20"},
		{setting.MostClicks, "3.5", "", "from 1 to 20"},
		{setting.KeepRemoved, "3650", "3650", ""},
		{setting.KeepRemoved, "3651", "", "from 1 to 3650"},
		{setting.OwnWork, "on", "on", ""},
		{setting.OwnWork, "", "", ""},
		{setting.OwnWork, "perhaps", "", "yes or no"},
	} {
		got, err := setting.Parse(setting.Values{c.key: c.given})
		if c.refused != "" {
			var refusal *setting.Refusal
			require.ErrorAs(t, err, &refusal, "%s %q", c.key, c.given)
			require.Equal(t, c.key, refusal.Key)
			require.Contains(t, refusal.Message, c.refused)
			continue
		}
		require.NoError(t, err, "%s %q", c.key, c.given)
		require.Equal(t, setting.Values{c.key: c.out}, got)
	}
	got, err := setting.Parse(setting.Values{"unheard-of": "x"})
	require.NoError(t, err)
	require.Empty(t, got, "what is no setting is left out")
}

func TestValues(t *testing.T) {
	v := setting.Values{setting.MostClicks: "5", setting.Accent: "nonsense", setting.OwnWork: setting.On}
	require.Equal(t, 5, v.Number(setting.MostClicks))
	require.Equal(t, "#2E5A3E", v.Text(setting.Accent), "what is no longer understood was not chosen")
	require.True(t, v.On(setting.OwnWork))
	require.False(t, v.On(setting.EditorsPublish))
	more := v.With(setting.Values{setting.MostClicks: "7"})
	require.Equal(t, []int{5, 7}, []int{v.Number(setting.MostClicks), more.Number(setting.MostClicks)}, "the first is not touched")
	require.Equal(t, "x", setting.Values(nil).With(setting.Values{setting.Foot: "x"}).Text(setting.Foot))
}
