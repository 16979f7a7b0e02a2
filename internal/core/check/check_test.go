package check

import (
	"testing"

	"github.com/stretchr/testify/require"
)

func TestFindingsStandInTheOrderOfTheirTable(t *testing.T) {
	table := Table{{Rule: "grave", Severity: Error}, {Rule: "mild", Severity: Warning}}
	found := []Finding{{Rule: "mild", ID: "1", Severity: Warning}, {Rule: "grave", ID: "2", Severity: Error}, {Rule: "mild", ID: "3", Severity: Error}}
	table.Sort(found)
	require.Equal(t, []string{"2", "1", "3"}, []string{found[0].ID, found[1].ID, found[2].ID})
	errs, warnings := Count(found)
	require.Equal(t, []int{2, 1}, []int{errs, warnings})
	row, at := table.Row("mild")
	require.Equal(t, 1, at)
	require.Equal(t, Warning, row.Severity)
	row, at = table.Row("unheard of")
	require.Equal(t, 2, at)
	require.Equal(t, Warning, row.Severity, "what no table knows stops nothing")
}
