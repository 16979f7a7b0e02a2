package edition

import (
	"slices"

	"candlepath/internal/core/sitemap"
)

// Overlay gives how the planned rows change when the edition goes out. was is Next
// before it, planned the entries that had a planned row. What stays planned as it
// was keeps its row, and so whoever planned it; what is taken back gets one.
func (d Draft) Overlay(was *sitemap.Tree, planned []string) sitemap.Overlay {
	o := sitemap.OverlayOf(d.Tree, sitemap.Patches(d.Tree, d.Next))
	had, stays := map[string]bool{}, map[string]bool{}
	for _, id := range planned {
		had[id] = true
	}
	for _, e := range slices.Concat(o.Put, o.Remove) {
		stays[e.ID] = true
	}
	o.Put = slices.DeleteFunc(o.Put, func(e sitemap.Entry) bool {
		i := was.Find(e.ID)
		return had[e.ID] && i != sitemap.None && was.At(i) == e
	})
	o.Forget = nil
	for _, id := range planned {
		if !stays[id] {
			o.Forget = append(o.Forget, id)
		}
	}
	slices.Sort(o.Forget)
	return o
}
