// Package check is what all checks share: those of a sitemap by itself, of a file
// of one, of a list of redirects, and preflight of an edition. A check is a table of
// rules and a function that gives findings; the rule says how grave a finding is,
// unless the case is a milder one, and how it can be mended.
package check

import "slices"

// Rule is the id of a rule. The same id means the same wherever it is checked.
type Rule string

// Severity tells findings that stop an edition from those that do not.
type Severity string

// The severities.
const (
	Error   Severity = "error"
	Warning Severity = "warning"
)

// Finding is one thing to know or to mend.
type Finding struct {
	Line     int // in the file; 0 where it was not read from one
	Severity Severity
	Rule     Rule
	ID       string // the entry, or the menu or trail
	From     string // the address
	Message  string // what is wrong and what to do
	Mend     Mend
	To       string // the entry that a link leads to, where that is the fault
}

// Mend is what the interface can offer to put a finding right.
type Mend string

// The mends.
const (
	NoMend     Mend = ""
	OpenEntry  Mend = "entry"  // show it in the outline
	OpenPage   Mend = "page"   // open the page editor
	OpenDecide Mend = "decide" // ask where its visitors belong
	OpenWay    Mend = "way"    // open the menu or trail
	OpenTest   Mend = "test"   // test the address
	OpenSend   Mend = "send"   // send it for review
	OpenFiles  Mend = "files"  // list the files
)

// Row is one rule of a table.
type Row struct {
	Rule     Rule
	Severity Severity
	Words    string // over its findings
	Mend     Mend
}

// Table is the rules of one check, in the order in which findings are told.
type Table []Row

// Row gives the row of a rule, and where it stands; the end where it is not there.
func (t Table) Row(rule Rule) (Row, int) {
	for i := range t {
		if t[i].Rule == rule {
			return t[i], i
		}
	}
	return Row{Severity: Warning}, len(t)
}

// Sort brings findings into the order of the table.
func (t Table) Sort(found []Finding) {
	of := make(map[Rule][]Finding, len(t))
	for _, f := range found {
		of[f.Rule] = append(of[f.Rule], f)
	}
	sorted := make([]Finding, 0, len(found))
	for _, row := range t {
		sorted = append(sorted, of[row.Rule]...)
		delete(of, row.Rule)
	}
	if len(of) > 0 { // of no row: first
		rest := slices.DeleteFunc(slices.Clone(found), func(f Finding) bool { return of[f.Rule] == nil })
		sorted = append(rest, sorted...)
	}
	copy(found, sorted)
}

// Count counts the findings that stop an edition, and the others.
func Count(found []Finding) (errors, warnings int) {
	for _, f := range found {
		if f.Severity == Error {
			errors++
		} else {
			warnings++
		}
	}
	return errors, warnings
}
