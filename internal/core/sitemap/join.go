package sitemap

import (
	"errors"
	"slices"
	"strings"
)

// ErrNotTwoPages says that two different pages are wanted, the one that goes
// not being home.
var ErrNotTwoPages = errors.New("choose two different pages; the home page cannot be the one that is removed")

// Join takes the page gone into the page kept: what is below gone goes below
// kept, behind what is there; references to gone lead to kept, and topics and
// notes are kept. Where kept stands below gone, it takes its place. Gone is
// removed; with asReference it stays where it is, as a reference to kept.
func (t *Tree) Join(kept, gone string, asReference bool) (*Tree, error) {
	k, g := t.Find(kept), t.Find(gone)
	if err := t.joinable(k, g); err != nil {
		return nil, err
	}
	next, err := t, error(nil)
	if t.Contains(g, k) {
		if next, err = next.Move(kept, Spot{t.entries[g].Parent, gone}); err != nil {
			return nil, err
		}
	}
	var below []string
	for c := range next.Children(next.Find(gone)) {
		below = append(below, next.entries[c].ID)
	}
	if len(below) > 0 {
		if next, err = next.MoveAll(below, next.lastBelow(kept)); err != nil {
			return nil, err
		}
	}
	referring := []string{kept}
	for i := range next.entries {
		if e := next.entries[i]; e.Kind == Reference && e.Target == gone {
			referring = append(referring, e.ID)
		}
	}
	old := t.entries[g]
	if next, err = next.ChangeAll(referring, func(e *Entry) {
		if e.ID == kept {
			e.Topics, e.Notes = JoinTopics(e.Topics+";"+old.Topics), joinNotes(e.Notes, old.Notes)
			return
		}
		e.Target = kept
	}); err != nil {
		return nil, err
	}
	if !asReference {
		return next.Remove(gone)
	}
	return next.Change(gone, func(e *Entry) {
		e.Kind, e.Target, e.Slug, e.Fixed, e.Withdrawn, e.Source = Reference, kept, "", "", false, ""
	})
}

// joinable says why a page cannot be taken into another.
func (t *Tree) joinable(kept, gone int) error {
	switch {
	case kept == None || gone == None:
		return ErrNoEntry
	case kept == gone || gone == t.home || !t.entries[kept].Kind.IsPage() || !t.entries[gone].Kind.IsPage():
		return ErrNotTwoPages
	}
	return nil
}

// lastBelow is the spot behind all that is below an entry, or the top where that
// is home.
func (t *Tree) lastBelow(id string) Spot {
	if i := t.Find(id); i == t.home {
		id = ""
	}
	return t.Last(id)
}

func joinNotes(notes ...string) string {
	return strings.Join(slices.Compact(slices.DeleteFunc(notes, func(n string) bool { return n == "" })), "\n")
}
