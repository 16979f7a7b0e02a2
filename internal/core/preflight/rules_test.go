package preflight

import (
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/check"
	"candlepath/internal/core/sitemap"
)

// Both tables are complete and agree: an id that is in both means the same.
func TestTheTablesOfRulesAgree(t *testing.T) {
	words := map[check.Rule]string{}
	for _, table := range []check.Table{sitemap.Rules(), Rules()} {
		seen := map[check.Rule]bool{}
		for _, row := range table {
			require.False(t, seen[row.Rule], row.Rule)
			seen[row.Rule] = true
			require.NotEmpty(t, row.Words, row.Rule)
			require.Contains(t, []check.Severity{check.Error, check.Warning}, row.Severity, row.Rule)
			require.NotEqual(t, check.NoMend, row.Mend, row.Rule)
			if known := words[row.Rule]; known != "" {
				require.Equal(t, known, row.Words, row.Rule)
			}
			words[row.Rule] = row.Words
		}
	}
}
