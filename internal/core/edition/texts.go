package edition

import (
	"maps"
	"slices"
)

// Shown is the version of a page that an edition shows, and the version whose text it is:
// another one where it was laid out anew because its template changed.
type Shown struct{ Version, Text string }

// Texts is what a rollback does to the texts of pages.
type Texts struct {
	Close []string          // entries whose live text ends
	Open  map[string]string // the version that is live again, by entry
	Draft []string          // entries whose live text, ending, returns to the plan as a draft
	Same  []string          // entries whose text stays and is only laid out as it was
}

// RestoreTexts gives what it takes to have the versions of an earlier edition live
// again. then and now give the versions of that edition and of Live, by entry; who
// has a draft already keeps it.
func RestoreTexts(then, now map[string]Shown, drafted map[string]bool) Texts {
	t := Texts{Open: map[string]string{}}
	for entry, version := range now {
		if then[entry] == version {
			continue
		}
		t.Close = append(t.Close, entry)
		switch {
		case then[entry].Text == version.Text:
			t.Same = append(t.Same, entry)
		case !drafted[entry]:
			t.Draft = append(t.Draft, entry)
		}
	}
	for entry, version := range then {
		if now[entry] != version {
			t.Open[entry] = version.Version
		}
	}
	slices.Sort(t.Close)
	slices.Sort(t.Draft)
	slices.Sort(t.Same)
	return t
}

// Entries gives the entries whose text is another, sorted.
func (t Texts) Entries() []string {
	out := slices.Concat(t.Close, slices.Collect(maps.Keys(t.Open)))
	slices.Sort(out)
	return slices.DeleteFunc(slices.Compact(out), func(entry string) bool {
		_, same := slices.BinarySearch(t.Same, entry)
		return same
	})
}
