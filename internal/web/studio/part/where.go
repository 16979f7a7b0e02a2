package part

import (
	"candlepath/internal/app/plan"
	"candlepath/internal/core/shape"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/web/urls"
)

// WhereIs is where an entry, menu, trail or template of Next is looked after; "" for what is
// not there.
func WhereIs(id string, trees plan.Trees) string {
	if m := shape.MenuOf(id); m != "" {
		return urls.Menu(m, "")
	}
	if t := shape.TemplateOf(id); t != "" && trees.Shapes.Next.Find(id) != nil {
		return urls.Template(t)
	}
	if trees.Shapes.Next.Find(id) != nil {
		return urls.Trail(shape.TrailOf(id))
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
