package markup

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/content"
)

func TestEveryKindOfBlockHasATemplate(t *testing.T) {
	var want, have []string
	for _, kind := range content.BlockTypes() {
		want = append(want, string(kind)+".html")
	}
	for _, t := range parseBlocks().Templates() {
		if strings.HasSuffix(t.Name(), ".html") { // others are parts that several use
			have = append(have, t.Name())
		}
	}
	require.ElementsMatch(t, want, have)
}

func TestABlockOfAnUnknownKindIsNotWritten(t *testing.T) {
	r := articleWriter{m: New()}
	require.NoError(t, r.block(content.Block{Type: "unknown", Text: "x"}))
	require.Empty(t, r.b.String())
}
