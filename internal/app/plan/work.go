package plan

import (
	"fmt"
	"strconv"
	"strings"
)

// Part is a named part of the work on which cached values depend. The database raises its number in
// the transaction that changes something of it; a test of the store tells which tables belong to it.
type Part uint8

// The parts.
const (
	PartEntries Part = iota
	PartPlan
	PartDrafts
	PartShapes
	PartReviews
	PartPeople
	PartFiles
	PartEditions
	PartOldSites
	partCount
)

// partNames are the names in the database.
var partNames = [partCount]string{"entries", "plan", "drafts", "shapes", "reviews", "people", "files", "editions", "old_sites"}

// String names the part.
func (p Part) String() string { return partNames[p] }

// Parts lists all parts.
func Parts() []Part {
	out := make([]Part, partCount)
	for p := range out {
		out[p] = Part(p)
	}
	return out
}

// WorkVersions are the numbers of all parts at one moment.
type WorkVersions [partCount]int64

// ParseWork reads the numbers as the database joins them, as "plan 12,drafts 3".
func ParseWork(s string) (w WorkVersions) {
	for field := range strings.SplitSeq(s, ",") {
		name, number, _ := strings.Cut(field, " ")
		for p, known := range partNames {
			if name == known {
				w[p], _ = strconv.ParseInt(number, 10, 64) // the database made it
			}
		}
	}
	return w
}

// Of is a key that differs whenever something of the parts does.
func (w WorkVersions) Of(parts ...Part) string {
	var b strings.Builder
	for _, p := range parts {
		fmt.Fprintf(&b, "%s %d ", p, w[p])
	}
	return b.String()
}

// Same tells whether nothing of the parts changed in between.
func (w WorkVersions) Same(other WorkVersions, parts []Part) bool {
	for _, p := range parts {
		if w[p] != other[p] {
			return false
		}
	}
	return true
}

// After tells whether a part changed since the other numbers were read.
func (w WorkVersions) After(other WorkVersions, parts []Part) bool {
	for _, p := range parts {
		if w[p] > other[p] {
			return true
		}
	}
	return false
}
