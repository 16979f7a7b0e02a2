package part

import (
	"slices"
	"strings"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/menu"
)

// inMenus names the menus that show an entry, and the trails that it is on.
func InMenus(trees plan.Trees, i int) string {
	var names []string
	for _, id := range menu.For(trees.Next, trees.Ways.Next.Menus()).Of(i) {
		names = append(names, LowerFirst(menu.Title(id, trees.Next)))
	}
	if len(names) == 0 {
		names = append(names, "in no menu")
	}
	for _, tr := range trees.Ways.Next.Trails() {
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

// lowerFirst begins words of ours without a capital.
func LowerFirst(s string) string { return strings.ToLower(s[:1]) + s[1:] }
