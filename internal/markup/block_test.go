package markup

import (
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/content"
)

func TestEveryKindOfBlockIsWritten(t *testing.T) {
	writers := blockWriters()
	require.Len(t, writers, len(content.BlockTypes()))
	for _, kind := range content.BlockTypes() {
		require.NotNil(t, writers[kind], kind)
	}
}
