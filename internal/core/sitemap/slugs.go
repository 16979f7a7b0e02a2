package sitemap

import (
	"fmt"
	"strings"

	"candlepath/internal/core/address"
	"candlepath/internal/core/check"
)

// addresses gives every entry of the tree its slug or fixed address. Slugs are
// unique within a space: the entries with the same nearest address-giving
// ancestor. In each space what the file says comes first, so that nothing made
// from a title takes a slug that a later row asks for.
func (r *reader) addresses(t *Tree, order []int) {
	owner, members := r.spaces(t, order)
	fixed := map[string]bool{}
	for i := range t.entries {
		t.entries[i].Slug, t.entries[i].Fixed = "", ""
	}
	prefix := make([]string, t.Len())
	for o := None; o < t.Len(); o++ {
		above := "/"
		if o != None {
			if above = address.Join(t.above(o, owner, prefix), "/"+t.entries[o].Slug); t.entries[o].Fixed != "" {
				above = t.entries[o].Fixed
			}
			prefix[o] = above
		}
		taken, names := map[string]bool{}, address.Namer{}
		for _, i := range members[o] {
			r.explicitSlug(t, i, r.rows[order[i]], above, taken, fixed)
		}
		for _, i := range members[o] {
			e := &t.entries[i]
			if e.Kind.IsPage() && e.Slug == "" && e.Fixed == "" {
				e.Slug = names.Unused(address.Slug(e.Title), func(s string) bool {
					return taken[s] || fixed[address.Join(above, "/"+s)]
				})
				taken[e.Slug] = true
			}
		}
	}
	t.deriveAddresses()
}

func (t *Tree) above(o int, owner []int, prefix []string) string {
	if owner[o] == None {
		return "/"
	}
	return prefix[owner[o]]
}

// spaces finds for each entry its nearest address-giving ancestor, and for
// each of those the entries that share it.
func (r *reader) spaces(t *Tree, order []int) (owner []int, members map[int][]int) {
	owner, members = make([]int, t.Len()), map[int][]int{}
	gives := func(i int) bool {
		e, w := t.entries[i], r.rows[order[i]]
		return e.Kind.IsPage() || e.Kind == Group && (w.entry.Slug != "" || w.addr != "")
	}
	for i := range t.entries {
		owner[i] = None
		if p := t.Parent(i); p != None {
			if owner[i] = owner[p]; gives(p) {
				owner[i] = p
			}
		}
		members[owner[i]] = append(members[owner[i]], i)
	}
	return owner, members
}

// explicitSlug takes what the file says of a slug or an address. A slug wins
// over an address, which is then for information.
func (r *reader) explicitSlug(t *Tree, i int, w row, above string, taken, fixed map[string]bool) {
	e := &t.entries[i]
	if !e.Kind.HoldsChildren() {
		return
	}
	if i == t.home {
		e.Fixed = "/"
		return
	}
	if w.entry.Slug != "" {
		slug, ok := address.Options{}.NormalSlug(strings.Trim(w.entry.Slug, "/"))
		if !ok {
			r.find(w.line, check.Error, "bad-slug", e.ID, "", fmt.Sprintf("%q cannot be a slug; one is made from the title.", w.entry.Slug))
		} else {
			e.Slug, e.SlugHeld, taken[slug] = slug, true, true
			if made := address.Join(above, "/"+slug); w.addr != "" && w.addr != made {
				r.find(w.line, check.Warning, "address-differs", e.ID, made, fmt.Sprintf("The address is given as %s, but slug and parent make it %s; the slug is used.", w.addr, made))
			}
			return
		}
	}
	if w.addr == "" {
		return
	}
	rest, below := address.Below(above, w.addr)
	if seg := strings.TrimPrefix(rest, "/"); below && seg != "" && !strings.Contains(seg, "/") && len(seg) <= address.MaxSlug {
		e.Slug, e.SlugHeld, taken[seg] = seg, true, true
		return
	}
	e.Fixed, fixed[w.addr] = w.addr, true
}
