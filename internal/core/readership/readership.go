// Package readership tells who may read what.
//
// An entry's readership names people and roles, separated by semicolons; empty
// means everybody, and one that names nobody, such as " ; ", nobody: what cannot be
// understood never widens who reads. It is inherited: a reader must be named by every entry above
// that names anybody, and by the entry itself. What a reader may not read does
// not exist for them: Visible gives the tree without it, and menus, lists,
// search, redirects and the pages meant by a wrong address all follow from that
// tree.
//
//	Staff          editor; approver
//	  Pay          Marta Oduya; Anselm Friis
//
//	Anselm, an approver, reads both; Ines, an editor, reads Staff.
package readership

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
)

// Reader is somebody who reads. The zero Reader is nobody known: they read what
// everybody may.
type Reader struct {
	Name, Login string
	Role        workflow.Role
}

// All tells whether the reader may read everything.
func (r Reader) All() bool { return r.Role == workflow.Manager }

// may tells whether the reader is named by an entry's own readership and by all
// others that bear on it, such as those of trails.
func (r Reader) may(e *sitemap.Entry, also map[string][]string) bool {
	if !r.In(e.Readership) {
		return false
	}
	return !slices.ContainsFunc(also[e.ID], func(names string) bool { return !r.In(names) })
}

// In tells whether a readership names the reader.
func (r Reader) In(readership string) bool {
	if Everybody(readership) || r.All() {
		return true
	}
	return slices.ContainsFunc(Names(readership), func(n string) bool {
		return r.Name != "" && strings.EqualFold(n, r.Name) || r.Login != "" && strings.EqualFold(n, r.Login) ||
			r.Role != "" && strings.EqualFold(n, string(r.Role))
	})
}

// OfRole gives somebody of whom only the role is known, by its name.
func OfRole(role string) (Reader, bool) {
	return Reader{Role: workflow.Role(role)}, slices.Contains(workflow.Roles(), workflow.Role(role))
}

// Since gives what bears on the entries of an earlier tree besides their own readership: what
// they, and what is above them, ask for now. What one may not read now, one does not see as it
// was either.
func Since(then, now *sitemap.Tree) map[string][]string {
	out := map[string][]string{}
	for i := range then.Len() {
		id := then.Ref(i).ID
		for at := now.Find(id); at != sitemap.None; at = now.Parent(at) {
			if names := now.Ref(at).Readership; !Everybody(names) && !slices.Contains(out[id], names) {
				out[id] = append(out[id], names)
			}
		}
	}
	return out
}

// Everybody tells whether a readership lets everybody read.
func Everybody(readership string) bool { return strings.TrimSpace(readership) == "" }

// Parse reads a readership as somebody typed it. It has to be empty or name
// people and roles that are known.
func Parse(s string, known func(name string) bool) (string, error) {
	names := Names(s)
	if len(names) == 0 {
		if !Everybody(s) {
			return "", &NameError{}
		}
		return "", nil
	}
	for _, n := range names {
		if !known(n) {
			return "", &NameError{n}
		}
	}
	return strings.Join(names, "; "), nil
}

// NameError says that a readership names somebody who is not known, or nobody.
type NameError struct{ Name string }

func (e *NameError) Error() string {
	if e.Name == "" {
		return "This names nobody. Leave it empty for everybody, or enter people or roles."
	}
	return fmt.Sprintf("%q is neither a person here nor a role. Roles are reader, editor, approver and site manager.", e.Name)
}

// Names splits a readership.
func Names(readership string) []string {
	var out []string
	for part := range strings.FieldsFuncSeq(readership, func(c rune) bool { return c == ';' || c == ',' || c == '\n' }) {
		if part = strings.TrimSpace(part); part != "" {
			out = append(out, part)
		}
	}
	return out
}

// Restricted tells whether anything in the tree is not for everybody; also is
// what bears on entries besides.
func Restricted(t *sitemap.Tree, also map[string][]string) bool {
	if len(also) > 0 {
		return true
	}
	for i := range t.Len() {
		if !Everybody(t.Ref(i).Readership) {
			return true
		}
	}
	return false
}

// Kinds lists the readerships that differ in a tree and what bears on it besides, in
// the order of the tree.
func Kinds(t *sitemap.Tree, also map[string][]string) []string {
	var out []string
	seen := map[string]bool{"": true}
	add := func(names string) {
		if !seen[names] {
			seen[names] = true
			out = append(out, names)
		}
	}
	for i := range t.Len() {
		e := t.Ref(i)
		add(e.Readership)
		for _, names := range also[e.ID] {
			add(names)
		}
	}
	return out
}

// Sight names what a reader may read of some kinds of readership: readers with the
// same sight read the same.
func (r Reader) Sight(kinds []string) string {
	out := make([]byte, len(kinds))
	for i, names := range kinds {
		out[i] = '0'
		if r.In(names) {
			out[i] = '1'
		}
	}
	return string(out)
}

// Visible gives the tree as it is for a reader; also is what bears on entries
// besides their own readership, by id.
func Visible(t *sitemap.Tree, r Reader, also map[string][]string) *sitemap.Tree {
	first := 0 // that is hidden
	for first < t.Len() && r.may(t.Ref(first), also) {
		first++
	}
	if first == t.Len() {
		return t
	}
	kept := make([]sitemap.Entry, 0, t.Len())
	for i := 0; i < t.Len(); {
		if i >= first && !r.may(t.Ref(i), also) {
			i = t.End(i)
			continue
		}
		kept = append(kept, t.At(i))
		i++
	}
	out, err := sitemap.New(kept)
	if err != nil { // cannot be: whole branches are left out
		out, _ = sitemap.New(nil)
	}
	return out
}

// VisibleToAll gives the tree as far as each of some readers may read it.
func VisibleToAll(t *sitemap.Tree, readers []Reader, also map[string][]string) *sitemap.Tree {
	for _, r := range readers {
		t = Visible(t, r, also)
	}
	return t
}

// Also joins what bears on entries besides their own readership.
func Also(some, more map[string][]string) map[string][]string {
	if len(more) == 0 {
		return some
	}
	out := maps.Clone(more)
	for id, names := range some {
		out[id] = append(slices.Clone(out[id]), names...)
	}
	return out
}

// Of gives the readership of the entry at an index with all that it inherits; where no list of names says that,
// a narrower one, see Both.
func Of(t *sitemap.Tree, i int) string {
	whole := ""
	for ; i != sitemap.None; i = t.Parent(i) {
		whole = Both(t.Ref(i).Readership, whole)
	}
	return whole
}

// Both joins two readerships of which a reader must be named by both. Where they have no name in common, only site
// managers are left, who may read everything: somebody could be named by one and hold a role that the other names,
// and no list of names says so for all times.
//
//	editor; approver   approver              approver
//	Gwen Hale          editor                site manager
func Both(a, b string) string {
	switch {
	case Everybody(a):
		return b
	case Everybody(b):
		return a
	}
	if both := common(Names(a), Names(b)); len(both) > 0 {
		return strings.Join(both, "; ")
	}
	return string(workflow.Manager)
}

// common gives the names of b that a has, too.
func common(a, b []string) []string {
	return slices.DeleteFunc(b, func(n string) bool {
		return !slices.ContainsFunc(a, func(m string) bool { return strings.EqualFold(m, n) })
	})
}

// Within adds to a readership what it takes that nobody reads the entry whom one of a list of readerships leaves
// out, where above lists what it inherits. What is asked already, there or here, is not added.
func Within(own string, above, asked []string) string {
	for _, names := range asked {
		if !slices.ContainsFunc(append(above[:len(above):len(above)], own), func(has string) bool { return !Narrows(names, has) }) {
			own = Both(own, names)
		}
	}
	return own
}

// Bearing lists all that a reader must be named by to read the entry at an index; none: everybody may.
func Bearing(t *sitemap.Tree, i int, also map[string][]string) (list []string) {
	for ; i != sitemap.None; i = t.Parent(i) {
		e := t.Ref(i)
		for _, names := range append([]string{e.Readership}, also[e.ID]...) {
			if !Everybody(names) && !slices.Contains(list, names) {
				list = append(list, names)
			}
		}
	}
	return list
}

// Withholds tells whether one of some readers is not named by all of a list that Bearing gave.
func Withholds(list []string, readers []Reader) bool {
	return slices.ContainsFunc(readers, func(r Reader) bool {
		return slices.ContainsFunc(list, func(names string) bool { return !r.In(names) })
	})
}

// Narrows tells whether a readership leaves out somebody whom another names.
func Narrows(readership, others string) bool {
	in, want := Names(readership), Names(others)
	if Everybody(readership) {
		return false
	}
	return Everybody(others) || slices.ContainsFunc(want, func(n string) bool {
		return !slices.ContainsFunc(in, func(m string) bool { return strings.EqualFold(m, n) })
	})
}

// Narrower joins two readerships of one entry so that nobody may read it who
// could not read it under both. Where that leaves nobody, the later one holds.
func Narrower(earlier, later string) string {
	switch {
	case Everybody(later):
		return earlier
	case Everybody(earlier):
		return later
	}
	both := common(Names(earlier), Names(later))
	if len(both) == 0 {
		return later
	}
	return strings.Join(both, "; ")
}
