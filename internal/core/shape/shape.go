// Package shape holds what people shape beside the sitemap: menus that they took over, trails,
// and templates. They are planned, compared, chosen and published like entries, each as one
// change.
//
// A Set holds them by key (MenuID, TrailID, TemplateID), as one edition has them. Live and
// Next are two Sets; Diff tells what differs, Apply gives Live with chosen changes, Back an
// earlier Set without opening what was closed since, Needs what chosen changes and changes of
// templates need of each other. What readers get of a menu is computed elsewhere, by package
// menu; how a page is laid out, by package markup.
package shape

import (
	"encoding/json"
	"fmt"
	"maps"
	"reflect"
	"slices"
	"strings"

	"candlepath/internal/core/change"
	"candlepath/internal/core/content"
	"candlepath/internal/core/menu"
	"candlepath/internal/core/readership"
	"candlepath/internal/core/sitemap"
)

// Item is one of them.
type Item struct {
	Menu     *menu.Overrides   `json:"menu,omitempty"`
	Trail    *Trail            `json:"trail,omitempty"`
	Template *content.Template `json:"template,omitempty"`
}

// Set holds items by id. It is not changed once it is made.
type Set map[string]Item

const (
	menuPrefix     = "menu:"
	trailPrefix    = "trail:"
	templatePrefix = "template:"
)

// MenuID makes the key under which a menu is a change of an edition.
func MenuID(id string) string { return menuPrefix + id }

// TrailID makes the key under which a trail is a change of an edition.
func TrailID(id string) string { return trailPrefix + id }

// TemplateID makes the key under which a template is a change of an edition.
func TemplateID(key string) string { return templatePrefix + key }

// TemplateOf gives the template of such a key; "" for others.
func TemplateOf(id string) string { return after(id, templatePrefix) }

// MenuOf gives the menu of such a key; "" for others.
func MenuOf(id string) string { return after(id, menuPrefix) }

// TrailOf gives the trail of such a key; "" for others.
func TrailOf(id string) string { return after(id, trailPrefix) }

func after(id, prefix string) string {
	rest, ok := strings.CutPrefix(id, prefix)
	if !ok {
		return ""
	}
	return rest
}

// Menus gives the menus that were taken over.
func (s Set) Menus() menu.Owns {
	out := menu.Owns{}
	for id, w := range s {
		if w.Menu != nil {
			out[MenuOf(id)] = *w.Menu
		}
	}
	return out
}

// Templates lists the templates in the order in which they are offered.
func (s Set) Templates() []content.Template {
	var out []content.Template
	for _, w := range s {
		if w.Template != nil {
			out = append(out, *w.Template)
		}
	}
	content.SortTemplates(out)
	return out
}

// With gives a set in which an id stands for an item; for nothing where w is nil
// or says nothing.
func (s Set) With(id string, w *Item) Set {
	out := maps.Clone(s)
	if out == nil {
		out = Set{}
	}
	if w == nil || w.Menu != nil && w.Menu.IsZero() || *w == (Item{}) {
		delete(out, id)
		return out
	}
	out[id] = *w
	return out
}

// Find gives the item of an id, or nil.
func (s Set) Find(id string) *Item {
	if w, ok := s[id]; ok {
		return &w
	}
	return nil
}

// Same tells whether two items are the same.
func Same(a, b *Item) bool {
	if a == nil || b == nil {
		return a == b
	}
	return reflect.DeepEqual(a, b) || written(*a) == written(*b) // the same text is the rule, and takes longer to find
}

func written(w Item) string {
	b, err := json.Marshal(w)
	if err != nil {
		panic(err) // strings, numbers and maps of them
	}
	return string(b)
}

// ids lists what is in either set, sorted.
func ids(a, b Set) []string {
	all := maps.Clone(a)
	if all == nil {
		all = Set{}
	}
	maps.Copy(all, b)
	return slices.Sorted(maps.Keys(all))
}

// Patch is a change of one item; nil: it is not there.
type Patch struct {
	ID            string
	Before, After *Item
}

// Patches tells how one set becomes another.
func Patches(before, after Set) []Patch {
	var out []Patch
	for _, id := range ids(before, after) {
		if b, a := before.Find(id), after.Find(id); !Same(b, a) {
			out = append(out, Patch{id, b, a})
		}
	}
	return out
}

// aspectOf is the aspect of changes of what an id stands for.
func aspectOf(id string) change.Aspect {
	switch {
	case MenuOf(id) != "":
		return change.Menu
	case TemplateOf(id) != "":
		return change.Layout
	}
	return change.Trail
}

func (p Patch) words() string {
	switch aspectOf(p.ID) {
	case change.Menu:
		return menuWords(p.Before, p.After)
	case change.Layout:
		return content.TemplateWords(template(p.Before), template(p.After))
	}
	return trailWords(p.Before, p.After)
}

func template(w *Item) *content.Template {
	if w == nil {
		return nil
	}
	return w.Template
}

// Diff tells how Next's items differ from Live's, as changes of an edition.
func Diff(live, next Set) []change.Change {
	var out []change.Change
	for _, p := range Patches(live, next) {
		out = append(out, change.Change{Key: change.Key{ID: p.ID, Aspect: aspectOf(p.ID)}, Because: p.words()})
	}
	return out
}

// Apply gives Live's items with the chosen changes made.
func Apply(live, next Set, chosen change.Set) Set {
	out := live
	for _, p := range Patches(live, next) {
		if chosen[change.Key{ID: p.ID, Aspect: aspectOf(p.ID)}] {
			out = out.With(p.ID, p.After)
		}
	}
	return out
}

// Title names what an id stands for; sets and tree are looked at in turn.
func Title(id string, t *sitemap.Tree, sets ...Set) string {
	if m := MenuOf(id); m != "" {
		return menu.Title(m, t)
	}
	for _, s := range sets {
		switch w := s.Find(id); {
		case w == nil:
		case w.Trail != nil:
			return "Trail " + w.Trail.Title
		case w.Template != nil:
			return "Template " + w.Template.Name
		}
	}
	if TemplateOf(id) != "" {
		return "A template that is gone"
	}
	return "A trail that is gone"
}

// menuWords tells what was done to a menu.
func menuWords(before, after *Item) string {
	var was, now menu.Overrides
	if before != nil {
		was = *before.Menu
	}
	if after != nil {
		now = *after.Menu
	}
	if after == nil {
		return "as computed again"
	}
	var parts []string
	say := func(n int, one, many string) {
		switch {
		case n == 1:
			parts = append(parts, one)
		case n > 1:
			parts = append(parts, fmt.Sprintf(many, n))
		}
	}
	t := tally(was, now)
	say(t.added, "one item added", "%d items added")
	say(t.gone, "one item taken away", "%d items taken away")
	say(t.out, "one left out", "%d left out")
	say(t.in, "one let in", "%d let in")
	say(t.said, "one says something else", "%d say something else")
	if !maps.EqualFunc(was.Order, now.Order, slices.Equal) {
		parts = append(parts, "another order")
	}
	if was.Of != now.Of || was.Levels != now.Levels || was.AZ != now.AZ || was.Wait != now.Wait {
		parts = append(parts, "computed in another way")
	}
	return strings.Join(parts, ", ")
}

type tallied struct{ added, gone, out, in, said int }

func tally(was, now menu.Overrides) tallied {
	var t tallied
	for k, b := range now.Items {
		a, had := was.Items[k]
		bare := func(it menu.ItemOverride) menu.ItemOverride {
			it.Out, it.In = false, false
			return it
		}
		switch {
		case !had && b.Kind != "":
			t.added++
		case b.Out && !a.Out:
			t.out++
		case a.Out && !b.Out, b.In && !a.In:
			t.in++
		case bare(a) != bare(b):
			t.said++
		}
	}
	for k, a := range was.Items {
		switch _, has := now.Items[k]; {
		case has:
		case a.Kind != "":
			t.gone++
		case a.Out:
			t.in++
		case a.Title+a.Symbol != "" || a.Levels != 0:
			t.said++
		}
	}
	return t
}

// Replaced makes what leads to one entry lead to another, as when two pages
// become one.
func (s Set) Replaced(gone, kept string) Set {
	out := s
	for id, w := range s {
		switch {
		case w.Menu != nil:
			if own, did := w.Menu.Replaced(gone, kept); did {
				out = out.With(id, &Item{Menu: &own})
			}
		case w.Trail != nil:
			if tr, did := w.Trail.replaced(gone, kept); did {
				out = out.With(id, &Item{Trail: &tr})
			}
		case w.Template != nil:
			ids := map[string]string{gone: kept}
			t := w.Template.Rewritten(func(link string) string { return content.RelinkedTo(link, ids) })
			if now := (Item{Template: &t}); !Same(&now, &w) {
				out = out.With(id, &now)
			}
		}
	}
	return out
}

// Back gives the items of an earlier edition for going back to it. Who may read
// the pages of a trail stays as narrow as it is now, so a trail that keeps readers
// out stays too.
func Back(live, earlier Set) Set {
	out := earlier
	for id, w := range live {
		if w.Trail == nil || w.Trail.Readership == "" {
			continue
		}
		tr := *w.Trail
		if then := earlier.Find(id); then != nil {
			tr = *then.Trail
			tr.Readership = readership.Narrower(tr.Readership, w.Trail.Readership)
			for _, p := range w.Trail.Pages {
				if !slices.Contains(tr.Pages, p) {
					tr.Pages = append(tr.Pages[:len(tr.Pages):len(tr.Pages)], p)
				}
			}
		}
		out = out.With(id, &Item{Trail: &tr})
	}
	return out
}

// Lost is an item, a step or a link of a template that leads to an entry which is not there.
type Lost struct{ Way, Key, Entry string }

// Lost lists what leads to nothing in a tree: items that editors put into menus,
// steps of trails, and links of fixed parts of templates.
func (s Set) Lost(t *sitemap.Tree) []Lost {
	var out []Lost
	for _, id := range slices.Sorted(maps.Keys(s)) {
		w := s[id]
		if w.Menu != nil {
			entries := w.Menu.Entries()
			for _, k := range slices.Sorted(maps.Keys(entries)) {
				if t.Find(entries[k]) == sitemap.None {
					out = append(out, Lost{id, k, entries[k]})
				}
			}
			continue
		}
		if w.Template != nil {
			for _, entry := range w.Template.Leads() {
				if t.Find(entry) == sitemap.None {
					out = append(out, Lost{Way: id, Entry: entry})
				}
			}
			continue
		}
		for _, p := range w.Trail.Pages {
			if t.Find(p) == sitemap.None {
				out = append(out, Lost{Way: id, Entry: p})
			}
		}
	}
	return out
}
