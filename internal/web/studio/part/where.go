package part

import (
	"candlepath/internal/app/plan"
	"candlepath/internal/core/navigation"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/web/urls"
)

// whereIs is where an entry, menu or trail of Next is looked after; "" for what is
// not there.
func WhereIs(id string, trees plan.Trees) string {
	if m := navigation.MenuOf(id); m != "" {
		return urls.Menu(m, "")
	}
	if trees.Navigation.Next.Find(id) != nil {
		return urls.Trail(navigation.TrailOf(id))
	}
	if trees.Next.Find(id) != sitemap.None {
		return urls.At(id)
	}
	return ""
}

// titleIn names an entry of one of the trees.
func TitleIn(id string, trees ...*sitemap.Tree) string {
	for _, t := range trees {
		if i := t.Find(id); i != sitemap.None {
			return t.Ref(i).Title
		}
	}
	return id
}
