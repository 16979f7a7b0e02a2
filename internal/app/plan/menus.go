package plan

import (
	"context"
	"strings"

	"candlepath/internal/core/address"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/ways"
)

// Planned gives both states of the sitemap, with menus and trails.
func (a *Floor) Planned(ctx context.Context, who Person) (t Trees, err error) {
	err = Area[Tx]{a, a.Store}.Planning(ctx, who, func(_ Tx, _ Site, trees Trees) error {
		t = trees
		return nil
	})
	return t, err
}

// PageAt gives the page of Next that is at an address as it is written, or was in
// Live; sitemap.None where there is none.
func PageAt(trees Trees, written string) int {
	normal, err := address.Normal(written)
	if err != nil {
		return sitemap.None
	}
	if i := trees.Next.PageAt(normal); i != sitemap.None {
		return i
	}
	if i := trees.Live.PageAt(normal); i != sitemap.None {
		return trees.Next.Find(trees.Live.Ref(i).ID)
	}
	return sitemap.None
}

func LowerFirst(s string) string { return strings.ToLower(s[:1]) + s[1:] }

func SentenceOf(err error) string {
	s := err.Error()
	return strings.ToUpper(s[:1]) + s[1:] + "."
}

// RecordWay records an act that makes a menu or trail something else; nil takes
// it away.
func (a *Floor) RecordWay(ctx context.Context, tx Tx, s Site, who Person, key, label string, trees Trees, id string, w *ways.Way) (PlanResult, error) {
	also := Also{Ways: ways.Patches(trees.Ways.Next, trees.Ways.Next.With(id, w))}
	return a.RecordAlso(ctx, tx, s, who, key, label, trees, trees.Next, also)
}
