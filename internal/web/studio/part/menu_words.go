package part

import (
	"slices"
	"strings"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/menu"
	"candlepath/internal/core/reach"
	"candlepath/internal/core/sitemap"
)

// inMenus names the menus that show an entry, and the trails that it is on.
func InMenus(trees plan.Trees, i int) string {
	var names []string
	for _, id := range menu.For(trees.Next, trees.Shapes.Next.Menus()).Of(i) {
		names = append(names, LowerFirst(menu.Title(id, trees.Next)))
	}
	if len(names) == 0 {
		names = append(names, "in no menu")
	}
	for _, tr := range trees.Shapes.Next.Trails() {
		if slices.Contains(tr.Pages, trees.Next.Ref(i).ID) {
			name := "trail " + tr.Title
			if tr.Readership != "" {
				name += " (only for " + tr.Readership + ")"
			}
			names = append(names, name)
		}
	}
	return strings.Join(names, ", ")
}

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
