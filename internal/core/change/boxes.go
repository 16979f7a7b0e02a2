package change

import "candlepath/internal/core/sitemap"

// Wholesale is what happens at once to changes that have no box of their own.
type Wholesale string

// The ways: they stay as they are, all of them go in, or all of them come out.
const (
	AsIs Wholesale = ""
	In   Wholesale = "in"
	Out  Wholesale = "out"
)

// Boxes is what somebody pressed in a list of planned changes, of which only some
// have a box: branches that are new stand folded, long lists are cut.
type Boxes struct {
	On, Off []Key     // boxes that were pressed
	Listed  []Key     // changes that had a box
	Rest    Wholesale // all that had no box, and is not new below what had one
	Every   Wholesale // all of it
}

// Press gives what is chosen after the boxes were pressed.
func (b Boxes) Press(next *sitemap.Tree, all []Change, chosen Set) Set {
	on, off := b.On, b.Off
	listed := Set{}
	for _, k := range b.Listed {
		listed[k] = true
	}
	folded := Fold(next, all)
	for _, c := range all {
		if c.Aspect == Readdressed {
			continue
		}
		top := folded.Top(c.ID)
		rest := !listed[c.Key] && (top == "" || !listed[Key{top, Added}])
		switch {
		case b.Every == In, rest && b.Rest == In:
			on = append(on, c.Key)
		case b.Every == Out, rest && b.Rest == Out:
			off = append(off, c.Key)
		}
	}
	return Toggle(next, all, chosen, on, off)
}

// Kept gives the choice that is kept when somebody chose among all changes with
// what they looked at before them. What became another since they looked is still
// to be told: it keeps the state that they knew, or stays unknown. The same holds
// for what went meanwhile, as beneath says.
func (c Choice) Kept(all []Change, state func(Key) State, looked Reviewed, chosen Set, beneath []ChangedSince) Choice {
	now := Choice{Out: Set{}, Seen: map[Key]State{}}
	for _, ch := range all {
		if ch.Aspect == Readdressed {
			continue
		}
		s := state(ch.Key)
		if !looked.At(ch.Key, s) {
			was, known := c.Seen[ch.Key]
			if !known {
				continue
			}
			s = was
		}
		now.Seen[ch.Key] = s
		if !chosen[ch.Key] {
			now.Out[ch.Key] = true
		}
	}
	for _, b := range beneath {
		if b.What == Went && !looked.At(b.Key, NotPlanned) {
			now.Seen[b.Key] = c.Seen[b.Key]
		}
	}
	return now
}

// StaysOut gives the planned changes that an edition leaves out of the next one
// too, until somebody ticks them: those that were left out before and are planned
// still and, where the edition took something back, what was not planned before
// it. had is what was planned before.
func StaysOut(planned []Change, before []Key, tookBack bool, had []Change) []Key {
	was, old := Set{}, All(had)
	for _, k := range before {
		was[k] = true
	}
	var out []Key
	for _, c := range planned {
		if c.Aspect != Readdressed && (was[c.Key] || tookBack && !old[c.Key]) {
			out = append(out, c.Key)
		}
	}
	return out
}

// TextGoes tells whether the draft of an entry goes out with the chosen changes: its
// edited text was chosen, or the page is new and its text goes with it.
func TextGoes(chosen Set, entry string) bool {
	return chosen[Key{entry, Content}] || chosen[Key{entry, Added}]
}
