package edition

import (
	"slices"
	"strings"
	"sync"

	"candlepath/internal/core/change"
	"candlepath/internal/core/content"
	"candlepath/internal/core/readership"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/shape"
	"candlepath/internal/core/sitemap"
)

// Trees are Live and Next: the sitemap, and the menus, trails and templates beside it.
type Trees struct {
	Live, Next *sitemap.Tree
	Planned    map[string]change.Planned // entries whose row in Next differs from Live
	Shapes     Shapes

	diff func() []change.Change // computed once for all who look at the trees
}

// Shapes are the menus that editors took over, the trails and the templates.
type Shapes struct {
	Live, Next shape.Set
	Planned    map[string]change.Planned // those that differ
}

// Changes tells how the entries of Next differ from those of Live. The list must not be
// changed.
func (t Trees) Changes() []change.Change {
	if t.diff != nil {
		return t.diff()
	}
	return change.Diff(t.Live, t.Next)
}

// With gives the trees with another Next.
func (t Trees) With(next *sitemap.Tree) Trees {
	t.Next = next
	return t.Shared()
}

// Shared gives the trees for many to look at: what is computed of them is computed once.
func (t Trees) Shared() Trees {
	t.diff = sync.OnceValue(func() []change.Change { return change.Diff(t.Live, t.Next) })
	return t
}

// IsShared tells whether they are.
func (t Trees) IsShared() bool { return t.diff != nil }

// Title names an entry, menu or trail of Next, else of Live.
func (t Trees) Title(id string) string {
	for _, tree := range []*sitemap.Tree{t.Next, t.Live} {
		if i := tree.Find(id); i != sitemap.None {
			return tree.Ref(i).Title
		}
	}
	if k, ok := redirect.ParseKey(id); ok {
		return k.Title()
	}
	if shape.MenuOf(id)+shape.TrailOf(id)+shape.TemplateOf(id) != "" {
		return shape.Title(id, t.Next, t.Shapes.Next, t.Shapes.Live)
	}
	return Nameless(id)
}

// RemovedTitle stands for the title of an entry that is not there any more.
const RemovedTitle = "a removed page"

// Nameless is how something without a title is called: an address as it is, an entry that is gone never by
// its id, which means nothing to people.
func Nameless(id string) string {
	if isEntryID(id) {
		return RemovedTitle
	}
	return id
}

// isEntryID tells whether something reads as the id of an entry: a UUID in its canonical form, RFC 9562, 4.
func isEntryID(id string) bool {
	if len(id) != 36 {
		return false
	}
	for i, c := range id {
		dash := i == 8 || i == 13 || i == 18 || i == 23
		if dash != (c == '-') || !dash && !strings.ContainsRune("0123456789abcdefABCDEF", c) {
			return false
		}
	}
	return true
}

// TemplateOf gives the template by which an entry of Next is laid out.
func (t Trees) TemplateOf(entry string) content.Template {
	return templateIn(t.Next, t.Shapes.Next.Templates(), entry)
}

func templateIn(t *sitemap.Tree, list []content.Template, entry string) content.Template {
	key := ""
	if i := t.Find(entry); i != sitemap.None {
		key = t.Ref(i).Template
	}
	return content.TemplateOf(list, key)
}

// MayBeRead are the entries of Next with all that bears on who may read them.
func (t Trees) MayBeRead() readership.State {
	return readership.State{Tree: t.Next, Also: t.Shapes.Next.Readerships()}
}

// LiveMayBeRead is the same for Live.
func (t Trees) LiveMayBeRead() readership.State {
	return readership.State{Tree: t.Live, Also: t.Shapes.Live.Readerships()}
}

// IsLive tells whether readers get an entry at an address of its own now.
func (t Trees) IsLive(id string) bool {
	i := t.Live.Find(id)
	return i != sitemap.None && t.Live.Served(i) != ""
}

// Planned tells all planned changes: of entries, of the texts that drafts hold, of menus, trails and templates.
func Planned(t Trees, drafts []PageSummary) []change.Change {
	return append(withContent(slices.Clip(t.Changes()), t, drafts), shape.Diff(t.Shapes.Live, t.Shapes.Next)...)
}

// withContent adds a change for every draft of a page that is live already, after the other changes of the
// entry. Content of a new page goes with it.
func withContent(changes []change.Change, t Trees, drafts []PageSummary) []change.Change {
	var edited []string
	for i := range drafts {
		if id := drafts[i].EntryID; t.Live.Find(id) != sitemap.None && t.Next.Find(id) != sitemap.None {
			edited = append(edited, id)
		}
	}
	slices.SortFunc(edited, func(x, y string) int { return t.Next.Find(x) - t.Next.Find(y) })
	for _, id := range edited {
		changes = append(changes, change.Change{Key: change.Key{ID: id, Aspect: change.Content}})
	}
	return changes
}

// ContentChanges are the changes of content of entries that are in both trees.
func ContentChanges(ids []string, from, to *sitemap.Tree) []change.Change {
	var out []change.Change
	for _, id := range ids {
		if from.Find(id) != sitemap.None && to.Find(id) != sitemap.None {
			out = append(out, change.Change{Key: change.Key{ID: id, Aspect: change.Content}})
		}
	}
	return out
}
