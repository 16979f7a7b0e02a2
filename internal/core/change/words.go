package change

import (
	"fmt"
	"strings"

	"candlepath/internal/core/sitemap"
)

// Label is an aspect in a word or two, as marks in lists show it.
func (a Aspect) Label() string {
	switch a {
	case Added:
		return "new"
	case Placement:
		return "moved"
	case Readdressed:
		return "new address"
	case Title:
		return "retitled"
	case Target:
		return "new target"
	case Template:
		return "new template"
	case Content:
		return "edited"
	case Details:
		return "facts"
	default:
		return string(a)
	}
}

// Mark is Label for one change: a placement says how.
func (c Change) Mark() string {
	if c.Aspect == Placement && c.Because != "" {
		return c.Because
	}
	return c.Aspect.Label()
}

// Sorts lists the sorts of change that a summary counts, in its order.
func Sorts() []string {
	return []string{"new", "moved", "renamed address", "turned", "removed", "withdrawn", "returned", "retitled", "reordered", "edited", "menu", "trail", "released", "other"}
}

// Sort is what a summary counts the change as.
func (c Change) Sort() string {
	switch c.Aspect {
	case Added, Title, Content:
		return c.Aspect.Label()
	case Placement:
		if strings.HasPrefix(c.Because, "turned") {
			return "turned"
		}
		return c.Because
	case Removed, Withdrawn, Returned, Reordered, Menu, Trail, Released:
		return string(c.Aspect)
	}
	return "other"
}

// Words tells a change in a sentence for people who know the site.
func Words(c Change, live, next *sitemap.Tree) string {
	switch c.Aspect {
	case Added:
		return "new" + under(next, c.ID)
	case Removed:
		return "removed" + under(live, c.ID) + more(live, c.ID)
	case Withdrawn:
		return "withdrawn; colleagues do not see it until it returns"
	case Returned:
		return "returns at " + c.After
	case Placement:
		return placementWords(c, live, next)
	case Readdressed:
		return fmt.Sprintf("answers at %s instead of %s, because %q moves", c.After, c.Before, titleOf(next, c.Because))
	case Reordered:
		return "stands elsewhere among its neighbours"
	case Title:
		return fmt.Sprintf("renamed from %q to %q", c.Before, c.After)
	case Target:
		return "leads somewhere else"
	case Template:
		return fmt.Sprintf("template changed from %s to %s", orNone(c.Before), orNone(c.After))
	case Readership:
		return fmt.Sprintf("may be read by %s instead of %s", orAll(c.After), orAll(c.Before))
	case Details:
		if strings.Contains(c.Because, ", ") {
			return c.Because + " changed"
		}
		return fmt.Sprintf("%s changed from %s to %s", c.Because, orNone(c.Before), orNone(c.After))
	case Content:
		return "content edited"
	case Released:
		return "the address is released and may answer nothing: " + c.Because
	case Menu, Trail:
		return c.Because
	}
	return string(c.Aspect)
}

func placementWords(c Change, live, next *sitemap.Tree) string {
	switch c.Because {
	case "moved":
		w := fmt.Sprintf("moved from %s to %s", place(live, c.ID), place(next, c.ID))
		return w + more(next, c.ID)
	case "renamed address":
		return fmt.Sprintf("answers at %s instead of %s", c.After, c.Before) + more(next, c.ID)
	default:
		return c.Because
	}
}

func titleOf(t *sitemap.Tree, id string) string {
	if i := t.Find(id); i != sitemap.None {
		return t.Ref(i).Title
	}
	return id
}

// place names what an entry stands below.
func place(t *sitemap.Tree, id string) string {
	p := t.Parent(t.Find(id))
	if p == sitemap.None || p == t.Home() {
		return "the top"
	}
	return fmt.Sprintf("%q", t.Ref(p).Title)
}

func under(t *sitemap.Tree, id string) string {
	if p := place(t, id); p != "the top" {
		return " below " + p
	}
	return " at the top"
}

func more(t *sitemap.Tree, id string) string {
	if i := t.Find(id); t.End(i)-i > 1 {
		return fmt.Sprintf(", with %d below it", t.End(i)-i-1)
	}
	return ""
}

func orNone(s string) string {
	if s == "" {
		return "none"
	}
	return fmt.Sprintf("%q", s)
}

func orAll(s string) string {
	if s == "" {
		return "everybody"
	}
	return s
}
