package edition_test

import (
	"reflect"
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/edition"
	"candlepath/internal/core/sitemap"
)

func TestStale(t *testing.T) {
	entries := []sitemap.Entry{
		{ID: "h", Title: "Home", Fixed: "/", Kind: sitemap.Page, Rank: "a"},
		{ID: "g", Title: "Grounds", Slug: "grounds", Kind: sitemap.Page, Rank: "b"},
		{ID: "v", Title: "Visitors", Slug: "visitors", Kind: sitemap.Page, Rank: "c"},
	}
	was, err := sitemap.New(entries)
	require.NoError(t, err)
	own := map[string]bool{"Owner": true, "Template": true, "Source": true, "Topics": true, "Review": true, "Notes": true, "SlugHeld": true, "Rank": true}
	fields := reflect.TypeOf(sitemap.Entry{})
	for i := range fields.NumField() {
		name := fields.Field(i).Name
		if name == "ID" || name == "Parent" || name == "Kind" {
			continue // seen below
		}
		is, err := was.Change("g", func(e *sitemap.Entry) {
			switch f := reflect.ValueOf(e).Elem().Field(i); f.Kind() {
			case reflect.Bool:
				f.SetBool(true)
			default:
				f.SetString("/other"[1:])
			}
		})
		if name == "Fixed" || name == "Rank" {
			continue // what they may be is checked elsewhere
		}
		require.NoError(t, err, name)
		stale, all := edition.Stale(was, is)
		require.Equal(t, !own[name], all, name)
		if own[name] {
			require.Equal(t, []string{"g"}, stale, name)
		}
	}
	moved, err := was.Move("v", sitemap.Spot{Parent: "g"})
	require.NoError(t, err)
	_, all := edition.Stale(was, moved)
	require.True(t, all)
	sorted, err := was.Move("v", sitemap.Spot{})
	require.NoError(t, err)
	_, all = edition.Stale(was, sorted)
	require.True(t, all, "another order")
	none, all := edition.Stale(was, was)
	require.Empty(t, none)
	require.False(t, all)
}
