package editions

import (
	"candlepath/internal/app/plan"
	"candlepath/internal/core/change"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/ways"
)

// Release is everything that publishing an edition writes.
type Release struct {
	Edition   plan.Edition
	Before    *sitemap.Tree // Live until now
	After     *sitemap.Tree
	Table     []redirect.Row
	Drafts    []string           // entries whose draft goes live
	Rendered  []plan.PageVersion // rendered again, because their entry has another template now
	Restored  int                // edition whose content is restored, or 0
	Overlay   plan.Overlay
	Decisions []string // entries whose decision is used up
	Released  []string // addresses that are given up

	WaysBefore ways.Set  // Live until now
	Ways       plan.Ways // as they are then
}

// Choice is what a person picked for the next edition, and why it is to go out.
type Choice struct {
	change.Choice
	Why string
}
