package content_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/content"
)

func TestRowsOfAFileBecomeATable(t *testing.T) {
	text, left := content.TableText([][]string{{"Day", "", "Who"}, {}, {"Monday", " ", "a|b *c*\nd"}, {"Tuesday"}})
	require.Zero(t, left)
	require.Equal(t, "| Day | Who |\n| --- | --- |\n| Monday | a\\|b \\*c\\* d |\n| Tuesday |  |\n", text)
	text, _ = content.TableText([][]string{{" "}, {}})
	require.Empty(t, text)

	rows := [][]string{{"n"}}
	for range content.MostTableRows + 5 {
		rows = append(rows, []string{"x"})
	}
	text, left = content.TableText(rows)
	require.Equal(t, []int{5, content.MostTableRows + 2}, []int{left, strings.Count(text, "\n")})
}
