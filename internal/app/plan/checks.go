package plan

import (
	"context"
	"time"

	"candlepath/internal/core/sitemap"
)

// CheckOptions are those of this site, today.
func (a *Floor) CheckOptions(ctx context.Context, tx Tx) (sitemap.CheckOptions, error) {
	people, err := tx.People(ctx)
	o := sitemap.CheckOptions{People: make(map[string]bool, len(people)), Today: a.Now().UTC().Format(time.DateOnly)}
	for _, p := range people {
		o.People[p.Name] = true
	}
	return o, err
}
