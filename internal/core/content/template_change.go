package content

import (
	"fmt"
	"slices"
	"strings"
)

// Mapping says where the blocks of each slot go when a page takes another template: slot to
// slot, by their keys. What is not in it, or goes to none, is kept aside.
type Mapping map[string]string

// MappingOf pairs the slots that hold something of a page with those of another template:
// by their keys, then by their names.
func MappingOf(from, to Template, p Page) Mapping {
	m := Mapping{}
	for _, key := range sortedKeys(p.Slots) {
		if p.filled(key) {
			m[key] = pairOf(from, to, key)
		}
	}
	return m
}

func pairOf(from, to Template, key string) string {
	if to.HasSlot(key) {
		return key
	}
	name := from.SlotName(key)
	for _, s := range to.Slots() {
		if strings.EqualFold(s.Called(), name) {
			return s.Key
		}
	}
	return ""
}

// SlotName is what people call the slot of a key; the key where the template has none.
func (t Template) SlotName(key string) string {
	for _, s := range t.Slots() {
		if s.Key == key {
			return s.Called()
		}
	}
	return key
}

// Within gives the mapping for a template: what leads to a slot that it does not have is
// kept aside.
func (m Mapping) Within(t Template) Mapping {
	out := Mapping{}
	for from, to := range m {
		if out[from] = ""; t.HasSlot(to) {
			out[from] = to
		}
	}
	return out
}

// Refused counts the blocks that a slot of the template does not take.
func (t Template) Refused(slot string, blocks []Block) (n int) {
	for _, s := range t.Slots() {
		for _, b := range blocks {
			if s.Key == slot && !s.Accepts(b.Type) {
				n++
			}
		}
	}
	return n
}

// OneSlot is a template that shows what one slot holds, and nothing else.
func OneSlot(key string) Template { return Template{Parts: []Part{{Kind: Slot, Key: key}}} }

// Remapped gives a page with its blocks in other slots, and with facts under the keys by
// which the other template knows facts of the same name.
func Remapped(from, to Template, p Page, m Mapping) Page {
	out := copied(Page{Fields: p.Fields})
	for _, key := range keysInOrder(from, p) {
		goes, paired := m[key]
		if !paired && to.HasSlot(key) {
			goes = key
		}
		if goes == "" { // kept aside, under a key that shows nothing
			for goes = key; to.HasSlot(goes); {
				goes += "-aside"
			}
		}
		out.Slots[goes] = append(out.Slots[goes], p.Slots[key]...)
	}
	has := func(key string) bool {
		return slices.ContainsFunc(to.Fields(), func(f Field) bool { return f.Key == key })
	}
	for _, was := range from.Fields() {
		v := p.Fields[was.Key]
		if v == "" || has(was.Key) {
			continue
		}
		for _, f := range to.Fields() {
			if strings.EqualFold(f.Label, was.Label) && f.Type == was.Type && out.Fields[f.Key] == "" {
				out.Fields[f.Key] = v
				delete(out.Fields, was.Key)
			}
		}
	}
	return out
}

// Beginning gives the template with the blocks of a page as what a new page begins with.
func (t Template) Beginning(p Page) Template {
	t.Parts = slices.Clone(t.Parts)
	for i, part := range t.Parts {
		if part.Kind == Slot {
			t.Parts[i].Content = copies(p.Slots[part.Key])
		}
	}
	return t
}

// keysInOrder lists the slots of a page: those of its template in its order, then others.
func keysInOrder(t Template, p Page) (keys []string) {
	for _, s := range t.Slots() {
		if _, has := p.Slots[s.Key]; has {
			keys = append(keys, s.Key)
		}
	}
	for _, key := range sortedKeys(p.Slots) {
		if !t.HasSlot(key) {
			keys = append(keys, key)
		}
	}
	return keys
}

// HasSlot tells whether the template has a slot of a key.
func (t Template) HasSlot(key string) bool {
	return slices.ContainsFunc(t.Slots(), func(s Part) bool { return s.Key == key })
}

// Effect is what a change of a template does to one of its pages.
type Effect struct {
	Aside   []string // names of slots whose blocks are kept aside from then on
	Unshown []string // labels of facts that are not shown any more
	Lacks   []string // what the template asks for and the page does not have, in clauses
}

// Any tells whether there is something to tell.
func (e Effect) Any() bool { return len(e.Aside)+len(e.Unshown)+len(e.Lacks) > 0 }

// EffectOn tells what it does to a page to have a template as it is after a change of it.
func EffectOn(before, after Template, p Page, people func(string) bool) (e Effect) {
	aside := p.Aside(before)
	for _, key := range p.Aside(after) {
		if !slices.Contains(aside, key) {
			e.Aside = append(e.Aside, before.SlotName(key))
		}
	}
	for _, f := range before.Fields() {
		if p.Fields[f.Key] != "" && !slices.ContainsFunc(after.Fields(), func(g Field) bool { return g.Key == f.Key }) {
			e.Unshown = append(e.Unshown, f.Label)
		}
	}
	had := Problems(before, p, people)
	for _, pr := range Problems(after, p, people) {
		same := func(o Problem) bool { return o.Part == pr.Part && o.What == pr.What && o.Block == pr.Block }
		if pr.What != KeptAside && !slices.ContainsFunc(had, same) {
			e.Lacks = append(e.Lacks, pr.Text)
		}
	}
	return e
}

// TemplateWords tells in a line how a template differs from what it was; nil: it is not
// there.
func TemplateWords(before, after *Template) string {
	switch {
	case before == nil && after == nil:
		return ""
	case before == nil:
		return "new template"
	case after == nil:
		return "template removed"
	}
	var out []string
	if before.Name != after.Name {
		out = append(out, fmt.Sprintf("renamed from %q", before.Name))
	}
	if before.For != after.For {
		out = append(out, "what it is for says something else")
	}
	if before.Order != after.Order {
		out = append(out, "offered in another place")
	}
	was, is := before.AsPage(), after.AsPage()
	counts := map[BlockChangeKind]int{}
	for _, c := range Changes(was, is) {
		counts[c.What]++
	}
	for _, k := range []struct {
		what      BlockChangeKind
		one, many string
	}{
		{BlockCame, "one part added", "%d parts added"},
		{BlockWent, "one part taken away", "%d parts taken away"},
		{BlockChanged, "one part changed", "%d parts changed"},
		{BlockMoved, "one part moved", "%d parts moved"},
	} {
		switch n := counts[k.what]; {
		case n == 1:
			out = append(out, k.one)
		case n > 1:
			out = append(out, fmt.Sprintf(k.many, n))
		}
	}
	if len(out) == 0 {
		return "laid out differently"
	}
	return strings.Join(out, ", ")
}
