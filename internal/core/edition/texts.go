package edition

import (
	"maps"
	"slices"
)

// Texts is what a rollback does to the texts of pages.
type Texts struct {
	Close []string          // entries whose live text ends
	Open  map[string]string // the version that is live again, by entry
	Draft []string          // entries whose live text, ending, returns to the plan as a draft
}

// RestoreTexts gives what it takes to have the versions of an earlier edition live
// again. then and now give the versions of that edition and of Live, by entry; who
// has a draft already keeps it.
func RestoreTexts(then, now map[string]string, drafted map[string]bool) Texts {
	t := Texts{Open: map[string]string{}}
	for entry, version := range now {
		if then[entry] == version {
			continue
		}
		t.Close = append(t.Close, entry)
		if !drafted[entry] {
			t.Draft = append(t.Draft, entry)
		}
	}
	for entry, version := range then {
		if now[entry] != version {
			t.Open[entry] = version
		}
	}
	slices.Sort(t.Close)
	slices.Sort(t.Draft)
	return t
}

// Entries gives the entries whose text is another, sorted.
func (t Texts) Entries() []string {
	out := slices.Concat(t.Close, slices.Collect(maps.Keys(t.Open)))
	slices.Sort(out)
	return slices.Compact(out)
}
