package sitemap

import (
	"errors"
	"fmt"
	"reflect"
	"slices"
)

// Patch is what an edit did to one entry. A nil Before means added, a nil After
// removed.
type Patch struct {
	ID            string
	Before, After *Entry
}

// Patches lists what differs between two trees, entry by entry, by id.
func Patches(from, to *Tree) []Patch {
	if from == to {
		return nil
	}
	var out []Patch
	met, j := 0, None
	for i := range from.entries {
		b := from.entries[i]
		at := to.FindNear(b.ID, j+1)
		if at == None {
			out = append(out, Patch{b.ID, b, nil})
			continue
		}
		if met, j = met+1, at; to.entries[j] != b && *to.entries[j] != *b {
			out = append(out, Patch{b.ID, b, to.entries[j]})
		}
	}
	if met == len(to.entries) {
		return out
	}
	for j := range to.entries {
		if a := to.entries[j]; from.Find(a.ID) == None {
			out = append(out, Patch{a.ID, nil, a})
		}
	}
	return out
}

// Reverse turns patches around, for undo.
func Reverse(patches []Patch) []Patch {
	out := make([]Patch, len(patches))
	for i, p := range patches {
		out[i] = Patch{p.ID, p.After, p.Before}
	}
	return out
}

// ConflictError names an entry that somebody changed since, so that patches do
// not apply any more.
type ConflictError struct{ ID, Title string }

func (e *ConflictError) Error() string {
	return fmt.Sprintf("%q was changed since", e.Title)
}

// Apply makes the patches' changes to the tree. Only the fields that a patch
// changes must still be as they were before it; any other may have changed.
func (t *Tree) Apply(patches []Patch) (*Tree, error) {
	list := t.Refs()
	drop := map[string]bool{}
	for _, p := range patches {
		i := t.Find(p.ID)
		switch {
		case p.Before == nil && i == None:
			list = append(list, p.After)
		case p.Before == nil:
			return nil, &ConflictError{p.ID, p.After.Title}
		case i == None && p.After != nil && sameButRank(*p.Before, *p.After):
			// Only its place among its neighbours changed, and it is gone.
		case i == None:
			return nil, &ConflictError{p.ID, p.Before.Title}
		case p.After == nil:
			if !sameButRank(*list[i], *p.Before) {
				return nil, &ConflictError{p.ID, p.Before.Title}
			}
			drop[p.ID] = true
		default:
			e := *list[i]
			if !mergeFields(&e, p.Before, p.After) {
				return nil, &ConflictError{p.ID, e.Title}
			}
			list[i] = &e
		}
	}
	list = slices.DeleteFunc(list, func(e *Entry) bool { return drop[e.ID] })
	next, err := t.alter(list, byRank)
	if shape := (*ShapeError)(nil); errors.As(err, &shape) {
		return nil, &ConflictError{shape.ID, titleIn(list, shape.ID)}
	}
	if err != nil {
		return nil, err
	}
	for i := range next.entries {
		if p := next.Parent(i); p != None && !next.entries[p].Kind.HoldsChildren() {
			return nil, &ConflictError{next.entries[p].ID, next.entries[p].Title}
		}
	}
	return next, nil
}

func titleIn(list []*Entry, id string) string {
	for _, e := range list {
		if e.ID == id {
			return e.Title
		}
	}
	return id
}

func sameButRank(a, b Entry) bool {
	a.Rank = b.Rank
	return a == b
}

// mergeFields brings what differs between before and after into at, field by field,
// unless one of them is not as it was before.
func mergeFields(at, before, after *Entry) bool {
	to, was, now := reflect.ValueOf(at).Elem(), reflect.ValueOf(before).Elem(), reflect.ValueOf(after).Elem()
	for i := range to.NumField() {
		switch {
		case now.Field(i).Equal(was.Field(i)):
		case !to.Field(i).Equal(was.Field(i)):
			return false
		default:
			to.Field(i).Set(now.Field(i))
		}
	}
	return true
}
