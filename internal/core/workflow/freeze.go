package workflow

import (
	"cmp"
	"slices"
	"time"
)

// Freeze is a time in which nothing is published: from its beginning, up to and without its end.
type Freeze struct {
	ID, Why, Person string
	Begins, Ends    time.Time
}

// Holds reports whether nothing is published at a moment.
func (f Freeze) Holds(at time.Time) bool { return !at.Before(f.Begins) && at.Before(f.Ends) }

// Touches reports whether it holds at any moment from one on, up to and without another.
func (f Freeze) Touches(from, to time.Time) bool { return f.Begins.Before(to) && f.Ends.After(from) }

// Frozen gives the freeze that holds at a moment; of several the one that ends last. nil: none.
func Frozen(list []Freeze, at time.Time) *Freeze {
	holds := slices.DeleteFunc(slices.Clone(list), func(f Freeze) bool { return !f.Holds(at) })
	if len(holds) == 0 {
		return nil
	}
	last := slices.MaxFunc(holds, func(a, b Freeze) int { return a.Ends.Compare(b.Ends) })
	return &last
}

// Thaw gives the first moment from one on in which no freeze holds.
func Thaw(list []Freeze, at time.Time) time.Time {
	for f := Frozen(list, at); f != nil; f = Frozen(list, at) {
		at = f.Ends
	}
	return at
}

// Ordered gives freezes by their beginning.
func Ordered(list []Freeze) []Freeze {
	return slices.SortedFunc(slices.Values(list), func(a, b Freeze) int {
		return cmp.Or(a.Begins.Compare(b.Begins), cmp.Compare(a.ID, b.ID))
	})
}
