package menu

import (
	"slices"
	"strings"

	"candlepath/internal/core/sitemap"
)

// Last stands in place of a sibling for the place behind all of them.
const Last = "\x00last"

// Move puts an item below another, "" for the menu itself, behind a sibling, ""
// for first.
func (l *Layout) Move(key, parent, after string) (Overrides, error) {
	if _, ok := l.at[key]; !ok {
		return l.own, ErrNoItem
	}
	for p := parent; p != ""; p = l.nodes[l.at[p]].Parent {
		at, ok := l.at[p]
		switch {
		case !ok:
			return l.own, ErrNoItem
		case p == key:
			return l.own, ErrInside
		case p == parent && !l.nodes[at].Holds:
			return l.own, ErrHolds
		}
	}
	o := l.own.clone()
	l.place(o, key, parent, after)
	return l.settled(o), nil
}

// settled forgets the order below a key where it says nothing that the sitemap
// does not. What is below a key that is not there for the moment is kept.
func (l *Layout) settled(o Overrides) Overrides {
	after := lay(l.tree, l.id, o)
	for p := range o.Order {
		says := func(k string) bool { n := after.nodes[after.at[k]]; return n.own || n.Arranged }
		_, there := after.at[p]
		if (there || p == "") && !slices.ContainsFunc(after.order[p], says) {
			delete(o.Order, p)
		}
	}
	return o
}

// place writes down how the items below a key stand, with one among them.
func (l *Layout) place(o Overrides, key, parent, after string) {
	list := slices.DeleteFunc(slices.Clone(l.order[parent]), func(k string) bool { return k == key })
	o.shed(key)
	at := slices.Index(list, after) + 1
	if after == Last {
		at = len(list)
	}
	o.Order[parent] = slices.Insert(list, at, key)
}

// Step moves an item up or down among its siblings, in below the one before it,
// or out behind the one that it stands below.
func (l *Layout) Step(key string, step sitemap.Step) (Overrides, error) {
	at, ok := l.at[key]
	if !ok {
		return l.own, ErrNoItem
	}
	parent := l.nodes[at].Parent
	list := l.order[parent]
	i := slices.Index(list, key)
	switch {
	case step == sitemap.Up && i > 1:
		return l.Move(key, parent, list[i-2])
	case step == sitemap.Up && i == 1:
		return l.Move(key, parent, "")
	case step == sitemap.Down && i < len(list)-1:
		return l.Move(key, parent, list[i+1])
	case step == sitemap.In && i > 0:
		return l.Move(key, list[i-1], Last)
	case step == sitemap.Out && parent != "":
		return l.Move(key, l.nodes[l.at[parent]].Parent, parent)
	}
	return l.own, ErrNoPlace
}

// Add puts an item of the editor's below another, behind a sibling.
func (l *Layout) Add(key string, it ItemOverride, parent, after string) (Overrides, error) {
	if l.own.own() >= MostItems {
		return l.own, ErrFull
	}
	if err := it.check(); err != nil {
		return l.own, err
	}
	if at, ok := l.at[parent]; parent != "" && !ok {
		return l.own, ErrNoItem
	} else if ok && !l.nodes[at].Holds {
		return l.own, ErrHolds
	}
	if (it.Kind == AnEntry || it.Kind == Children) && l.tree.Find(it.Entry) == sitemap.None {
		return l.own, ErrNoItem
	}
	o := l.own.clone()
	o.Items[key] = it
	l.place(o, key, parent, after)
	return o, nil
}

// Say changes what is said about an item.
func (l *Layout) Say(key string, say func(*ItemOverride)) (Overrides, error) {
	at, ok := l.at[key]
	if !ok {
		return l.own, ErrNoItem
	}
	o := l.own.clone()
	it := o.Items[key]
	kind, entry := it.Kind, it.Entry
	say(&it)
	it.Kind, it.Entry = kind, entry
	if n := &l.nodes[at]; it.Kind == "" && n.Entry != sitemap.None && it.Title == l.tree.Ref(n.Entry).Name() {
		it.Title = "" // its own title says that already
	}
	if err := it.check(); err != nil {
		return l.own, err
	}
	o.Items[key] = it
	if it == (ItemOverride{}) {
		delete(o.Items, key)
	}
	return o, nil
}

// LeaveOut takes an item out of the menu: one of the editor's is gone, with what
// is said of the items that it shows below itself; a computed one is remembered
// as left out. What others put below it stands in its place.
func (l *Layout) LeaveOut(key string) (Overrides, error) {
	line, ok := l.Find(key)
	if !ok {
		return l.own, ErrNoItem
	}
	if !line.Own() {
		return l.Say(key, func(it *ItemOverride) { it.Out = true })
	}
	o := l.own.clone()
	list := slices.Clone(l.order[line.Parent])
	i := slices.Index(list, key)
	var stay []string
	for _, k := range l.order[key] {
		if !strings.HasPrefix(k, key+"/") {
			stay = append(stay, k)
		}
	}
	for _, k := range stay {
		o.shed(k)
	}
	o.shed(key)
	delete(o.Order, key)
	delete(o.Items, key)
	for k := range o.Items {
		if strings.HasPrefix(k, key+"/") {
			delete(o.Items, k)
		}
	}
	if len(stay) > 0 {
		o.Order[line.Parent] = slices.Replace(list, i, i+1, stay...)
	}
	return l.settled(o), nil
}

// Back makes an item as it is computed again: nothing is said about it, and it
// stands where the sitemap puts it. For items of the editor's see LeaveOut.
func (l *Layout) Back(key string) (Overrides, error) {
	line, ok := l.Find(key)
	if !ok {
		return l.own, ErrNoItem
	}
	if line.Own() {
		return l.LeaveOut(key)
	}
	o := l.own.clone()
	in := o.Items[key].In
	delete(o.Items, key)
	if in && o.Wait {
		o.Items[key] = ItemOverride{In: true}
	}
	o.shed(key)
	return l.settled(o), nil
}

// Settings are what is said about a menu as a whole.
type Settings struct {
	Of       string
	Levels   int
	AZ, Wait bool
}

// Settings gives what is said about the menu as a whole.
func (l *Layout) Settings() Settings { return Settings{l.own.Of, l.own.Levels, l.own.AZ, l.own.Wait} }

// Set says how the menu is computed. When new pages are to wait from now on,
// those that are there are let in, and so are those that this choice brings.
func (l *Layout) Set(s Settings) (Overrides, error) {
	if s.Of != "" && l.tree.Find(s.Of) == sitemap.None {
		return l.own, ErrNoItem
	}
	if s.Levels < Nothing || s.Levels > 9 {
		return l.own, ErrLevels
	}
	o := l.own.clone()
	o.Of, o.Levels, o.AZ, o.Wait = s.Of, s.Levels, s.AZ, s.Wait
	for _, n := range lay(l.tree, l.id, o).nodes {
		if n.own {
			continue
		}
		it := o.Items[n.Key]
		_, was := l.at[n.Key]
		if it.In = s.Wait && (it.In || !l.own.Wait || !was); it == (ItemOverride{}) {
			delete(o.Items, n.Key)
		} else {
			o.Items[n.Key] = it
		}
	}
	return o, nil
}
