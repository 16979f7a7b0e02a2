package part

import (
	"fmt"

	"github.com/google/uuid"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/ways"
	"candlepath/internal/web/urls"
)

func Count(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%s %s", Thousands(n), many)
}

func Thousands(n int) string {
	s := fmt.Sprint(n)
	for i := len(s) - 3; i > 0; i -= 3 {
		s = s[:i] + "," + s[i:]
	}
	return s
}

func NewKey() string { return uuid.NewString() }

// whereIs is where an entry, menu or trail of Next is looked after; "" for what is
// not there.
func WhereIs(id string, trees plan.Trees) string {
	if m := ways.MenuOf(id); m != "" {
		return urls.Menu(m, "")
	}
	if trees.Ways.Next.Find(id) != nil {
		return urls.Trail(ways.TrailOf(id))
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
