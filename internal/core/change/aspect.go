package change

import (
	"fmt"
	"slices"
	"strings"

	"candlepath/internal/core/sitemap"
)

// Aspect is what of an entry changes. Databases and forms keep it; words are made
// of it where it is shown.
type Aspect string

// The aspects. Those of a field that changes alone have its key.
const (
	Added       Aspect = "added"
	Removed     Aspect = "removed"
	Withdrawn   Aspect = "withdrawn"
	Returned    Aspect = "returned" // withdrawn in Live, live again in Next
	Placement   Aspect = "placement"
	Readdressed Aspect = "readdressed"
	Reordered   Aspect = "reordered"
	Title       Aspect = "title"
	Target      Aspect = "target"
	Template    Aspect = "template"
	Readership  Aspect = "readership"
	Details     Aspect = "details" // the fields that change together
	Content     Aspect = "content"

	// Changes of what is no entry: package shape tells them.
	Menu   Aspect = "menu"
	Trail  Aspect = "trail"
	Layout Aspect = "layout" // a template says something else

	// Released is an address given up; the key holds it in place of an entry.
	Released Aspect = "released"

	// Redirect is a redirect that somebody adds or changes; the key holds its own in place
	// of an entry.
	Redirect Aspect = "redirect"
)

// News is what a change is to colleagues.
type News string

// The news, the lesser first: being new outweighs being changed, and that being
// moved.
const (
	NoNews     News = ""
	NewsMoved  News = "moved"
	NewsChange News = "changed"
	NewsNew    News = "new"
)

// Outweighs tells whether news is told in place of other news of the same edition.
func (n News) Outweighs(other News) bool {
	rank := []News{NoNews, NewsMoved, NewsChange, NewsNew}
	return slices.Index(rank, n) > slices.Index(rank, other)
}

// How an entry is placed anew, where it is not turned into another kind.
const (
	moved   = "moved"
	renamed = "renamed address"
	turned  = "turned" // into another kind, which follows
)

// aspects is the table of aspects, in the order in which they are told: the word
// of lists, the word under which a summary counts them (empty: other), what they
// are to colleagues, and the sentence for people who know the site.
var aspects = []struct {
	aspect     Aspect
	mark, sort string
	news       News
	words      func(c Change, live, next *sitemap.Tree) string
}{
	{Added, "new", "new", NewsNew, func(c Change, _, next *sitemap.Tree) string { return "new" + under(next, c.ID) }},
	{Removed, "removed", "removed", NoNews, func(c Change, live, _ *sitemap.Tree) string { return "removed" + under(live, c.ID) + more(live, c.ID) }},
	{Withdrawn, "withdrawn", "withdrawn", NoNews, func(Change, *sitemap.Tree, *sitemap.Tree) string {
		return "withdrawn; hidden from readers until restored"
	}},
	{Returned, "returned", "returned", NewsNew, func(c Change, _, _ *sitemap.Tree) string { return "restored at " + c.After }},
	{Placement, moved, "", NewsMoved, placementWords},
	{Readdressed, "new address", "", NoNews, func(c Change, _, next *sitemap.Tree) string {
		return fmt.Sprintf("address becomes %s instead of %s, because %q moves", c.After, c.Before, titleOf(next, c.Because))
	}},
	{Reordered, "reordered", "reordered", NoNews, func(Change, *sitemap.Tree, *sitemap.Tree) string {
		return "reordered"
	}},
	{Title, "retitled", "retitled", NewsChange, func(c Change, _, _ *sitemap.Tree) string {
		return fmt.Sprintf("renamed from %q to %q", c.Before, c.After)
	}},
	{Target, "new target", "", NoNews, func(Change, *sitemap.Tree, *sitemap.Tree) string { return "link target changed" }},
	{Template, "new template", "", NewsChange, func(c Change, _, _ *sitemap.Tree) string {
		return fmt.Sprintf("template changed from %s to %s", orNone(c.Before), orNone(c.After))
	}},
	{Readership, "readership", "", NoNews, func(c Change, _, _ *sitemap.Tree) string {
		return fmt.Sprintf("readable by %s instead of %s", orAll(c.After), orAll(c.Before))
	}},
	{Details, "details", "", NoNews, detailWords},
	{Content, "edited", "edited", NewsChange, func(Change, *sitemap.Tree, *sitemap.Tree) string { return "content edited" }},
	{Menu, "menu", "menu", NoNews, because},
	{Trail, "trail", "trail", NoNews, because},
	{Layout, "template", "template", NoNews, because},
	{Released, "released", "released", NoNews, func(c Change, _, _ *sitemap.Tree) string {
		return "address released; it will no longer redirect: " + c.Because
	}},
	{Redirect, "redirect", "redirect", NoNews, because},
}

// Aspects lists all of them.
func Aspects() []Aspect {
	out := make([]Aspect, len(aspects))
	for i, a := range aspects {
		out[i] = a.aspect
	}
	return out
}

// row is the index of an aspect in the table, or -1.
func (a Aspect) row() int {
	for i := range aspects {
		if aspects[i].aspect == a {
			return i
		}
	}
	return -1
}

// Label is an aspect in a word or two, as marks in lists show it.
func (a Aspect) Label() string {
	if i := a.row(); i >= 0 {
		return aspects[i].mark
	}
	return string(a)
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
	return []string{"new", moved, renamed, turned, "removed", "withdrawn", "returned", "retitled", "reordered", "edited", "menu", "trail", "template", "released", "redirect", other}
}

const other = "other"

// Sort is what a summary counts the change as.
func (c Change) Sort() string {
	if c.Aspect == Placement {
		if strings.HasPrefix(c.Because, turned) {
			return turned
		}
		return c.Because
	}
	if i := c.Aspect.row(); i >= 0 && aspects[i].sort != "" {
		return aspects[i].sort
	}
	return other
}

// News is what the change is to colleagues.
func (c Change) News() News {
	i := c.Aspect.row()
	if i < 0 || c.Aspect == Placement && strings.HasPrefix(c.Because, turned) {
		return NoNews
	}
	return aspects[i].news
}

// Words tells a change in a sentence for people who know the site.
func Words(c Change, live, next *sitemap.Tree) string {
	if i := c.Aspect.row(); i >= 0 {
		return aspects[i].words(c, live, next)
	}
	return string(c.Aspect)
}

func because(c Change, _, _ *sitemap.Tree) string { return c.Because }

// detailWords tells the lesser facts that changed, and one of them exactly.
func detailWords(c Change, _, _ *sitemap.Tree) string {
	keys := strings.Split(c.Because, ", ")
	for i, key := range keys {
		if f, ok := sitemap.FieldOf(key); ok {
			keys[i] = f.Words
		}
	}
	if len(keys) > 1 {
		return strings.Join(keys, ", ") + " changed"
	}
	return fmt.Sprintf("%s changed from %s to %s", keys[0], orNone(c.Before), orNone(c.After))
}
