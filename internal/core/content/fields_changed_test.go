package content_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/content"
	"candlepath/internal/core/textdiff"
)

func TestChangedFields(t *testing.T) {
	template := content.Template{Parts: []content.Part{
		{Kind: content.Lead, Fields: []content.Field{{Key: "summary", Label: "Summary"}}},
		{Kind: content.Facts, Fields: []content.Field{{Key: "risk", Label: "Risk"}, {Key: "owner", Label: "Contact", Type: content.FieldPerson}}},
	}}
	before := content.Page{Fields: map[string]string{"summary": "The chipper", "risk": "medium", "owner": "1", "old": "x"}}
	after := content.Page{Fields: map[string]string{"summary": "The chipper", "risk": "high", "owner": "2", "old": "y"}}
	got := content.ChangedFields(template, before, after, func(id string) string { return map[string]string{"1": "Ines", "2": "Kofi"}[id] })
	require.Equal(t, []content.FieldChange{
		{Label: "Risk", Runs: textdiff.Compare("medium", "high")}, {Label: "Contact", Runs: textdiff.Compare("Ines", "Kofi")},
	}, got)
	require.Empty(t, content.ChangedFields(template, after, after, nil))
}
