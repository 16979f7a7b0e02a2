package account

import (
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/app/plan"
)

// Every kind of notice leads somewhere.
func TestNoticesLeadSomewhere(t *testing.T) {
	for _, k := range plan.NoticeKinds() {
		url, words := goesTo(plan.Notice{Kind: k, Subject: "x"})
		require.NotEmpty(t, url, k)
		require.NotEmpty(t, words, k)
	}
}
