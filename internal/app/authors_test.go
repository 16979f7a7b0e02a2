package app_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"candlepath/internal/app"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/change"
)

// Recording who made thousands of changes at once, as an import does, takes time by their number, not by its square.
func TestAuthorsOfManyChanges(t *testing.T) {
	d := newDesk(t)
	record := func(n int) (took time.Duration) {
		list := make([]plan.Authored, n)
		for i := range list {
			aspects := []change.Aspect{change.Added, change.Title}
			list[i] = plan.Authored{ID: fmt.Sprintf("%d of %d", i, n), Aspects: aspects, Planned: aspects}
		}
		require.NoError(t, d.store.Write(t.Context(), func(tx app.Tx, _ plan.Site) error {
			began := time.Now()
			_, err := tx.AddAuthors(t.Context(), plan.Planned{PersonID: d.people["ines"].ID, At: d.now}, time.Time{}, list)
			took = time.Since(began)
			return err
		}))
		return took
	}
	few, many := record(1000), record(8000)
	require.Less(t, many, 24*few+300*time.Millisecond, "1,000 took %v", few)

	only := []plan.Authored{{ID: "7 of 1000", Aspects: []change.Aspect{change.Title}, Planned: []change.Aspect{change.Title}}, {ID: "8 of 1000", Planned: []change.Aspect{}}}
	require.NoError(t, d.store.Write(t.Context(), func(tx app.Tx, _ plan.Site) error {
		_, err := tx.AddAuthors(t.Context(), plan.Planned{PersonID: d.people["marta"].ID, At: d.now}, time.Time{}, only)
		require.NoError(t, err)
		authors, err := tx.Authors(t.Context())
		require.Empty(t, authors[change.Key{ID: "7 of 1000", Aspect: change.Added}], "it is not planned any more")
		require.ElementsMatch(t, []string{d.people["ines"].ID, d.people["marta"].ID}, authors[change.Key{ID: "7 of 1000", Aspect: change.Title}])
		require.Empty(t, authors[change.Key{ID: "8 of 1000", Aspect: change.Title}], "nothing of it is")
		require.Len(t, authors[change.Key{ID: "9 of 1000", Aspect: change.Title}], 1)
		return err
	}))
}
