package edition_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/edition"
	"candlepath/internal/core/sitemap"
)

// Of what was planned, what went out has no planned row any more, what stays keeps
// its row, and what was taken back gets one.
func TestOverlay(t *testing.T) {
	tree := func(entries ...sitemap.Entry) *sitemap.Tree {
		out, err := sitemap.New(entries)
		require.NoError(t, err)
		return out
	}
	page := func(id, title string) sitemap.Entry {
		return sitemap.Entry{ID: id, Title: title, Slug: id, Kind: sitemap.Page}
	}
	was := tree(page("went", "New"), page("stays", "Planned"), page("back", "Old"), page("same", "Same"))
	d := edition.Draft{
		Live: edition.Live{Tree: tree(page("went", "New"), page("stays", "Live"), page("back", "Older"), page("same", "Same"), page("ends", "Ends"))},
		Next: was,
	}
	o := d.Overlay(was, []string{"went", "stays"})
	var put, remove []string
	for _, e := range o.Put {
		put = append(put, e.ID)
	}
	for _, e := range o.Remove {
		remove = append(remove, e.ID)
	}
	require.Equal(t, []string{"back"}, put, "stays has its row already")
	require.Equal(t, []string{"ends"}, remove)
	require.Equal(t, []string{"went"}, o.Forget)
}
