package sitemap

import (
	"maps"
	"strings"
	"sync"
	"sync/atomic"
)

// directory tells which entry holds an address: the number of the first that does. A
// tree may take over the directory of the tree it was made of. Then some of what it says
// is no longer so; late says what is instead.
type directory struct {
	first, late map[string]int32
	twice       bool // there is an address that two hold
}

// list makes the directory of a tree.
func (t *Tree) list(held func(int) string) *directory {
	d := &directory{first: make(map[string]int32, len(t.entries))}
	for i := range t.entries {
		if a := held(i); a != "" {
			if _, taken := d.first[a]; taken {
				d.twice = true
				continue
			}
			d.first[a] = t.slot[i]
		}
	}
	return d
}

// find gives the index of the entry of a tree that holds an address, or None.
func (d *directory) find(t *Tree, addr string, held func(int) string) int {
	if i := holder(t, d.first, addr, held); i != None {
		return i
	}
	return holder(t, d.late, addr, held)
}

// holder gives the index of the entry that holds an address by one of the two lists, if
// what it says is still so.
func holder(t *Tree, list map[string]int32, addr string, held func(int) string) int {
	if s, ok := list[addr]; ok {
		if i := int(t.placed[s]); i != None && held(i) == addr {
			return i
		}
	}
	return None
}

// renewed gives the directory of a tree that was made of the one that d is of, where
// the entries at some indexes may hold another address; nil where two would hold one.
func (d *directory) renewed(t *Tree, changed []int32, held func(int) string) *directory {
	switch {
	case d == nil || d.twice:
		return nil
	case len(changed) == 0:
		return d
	}
	n := &directory{first: d.first, late: maps.Clone(d.late)}
	if n.late == nil {
		n.late = map[string]int32{}
	}
	for _, i := range changed {
		a := held(int(i))
		if a == "" {
			continue
		}
		for _, list := range []map[string]int32{n.first, n.late} {
			if other := holder(t, list, a, held); other != None && other != int(i) {
				return nil
			}
		}
		if !fewer(len(n.late), len(t.entries)) {
			return nil
		}
		n.late[a] = t.slot[i]
	}
	return n
}

// takeOver takes what the tree it was made of knows of addresses; those of the entries
// at some indexes may be others now.
func (t *Tree) takeOver(was *Tree, changed []int32) {
	t.claims.set(was.claims.known().renewed(t, changed, t.Claim))
	t.served.set(was.served.known().renewed(t, changed, t.Served))
}

// takeTitles takes the titles that another tree has in lower case; before tells where each
// entry stood in it.
func (t *Tree) takeTitles(was *Tree, before func(i int) int) {
	known := was.lower.known()
	if known == nil {
		return
	}
	out := make([]string, len(t.entries))
	for i, e := range t.entries {
		if b := before(i); b != None && was.entries[b].Title == e.Title {
			out[i] = (*known)[b]
		} else {
			out[i] = strings.ToLower(e.Title)
		}
	}
	t.lower.set(&out)
}

// lazy is a value that is made when it is first asked for.
type lazy[T any] struct {
	made  atomic.Pointer[T]
	alone sync.Mutex
}

func (l *lazy[T]) get(build func() *T) *T {
	if v := l.made.Load(); v != nil {
		return v
	}
	l.alone.Lock()
	defer l.alone.Unlock()
	if v := l.made.Load(); v != nil {
		return v
	}
	v := build()
	l.made.Store(v)
	return v
}

// known gives the value if it was made already.
func (l *lazy[T]) known() *T { return l.made.Load() }

func (l *lazy[T]) set(v *T) { l.made.Store(v) }

func (l *lazy[T]) forget() { l.made.Store(nil) }
