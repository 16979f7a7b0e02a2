package part

import (
	"candlepath/internal/core/reach"
	"candlepath/internal/core/sitemap"
)

type WayStep struct{ Title, Via string }

// wayOf words a way, home left out.
func WayOf(t *sitemap.Tree, way []reach.Step) []WayStep {
	var out []WayStep
	for _, s := range way[min(1, len(way)):] {
		via := s.Via.Words()
		if s.Words != "" {
			via += " “" + s.Words + "”"
		}
		out = append(out, WayStep{t.Ref(s.Entry).Name(), via})
	}
	return out
}
