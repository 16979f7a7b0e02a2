package sitemap

import "fmt"

// Severity tells findings that stop a publication from those that do not.
type Severity string

// The severities.
const (
	Error   Severity = "error"
	Warning Severity = "warning"
)

// Finding is one thing to know or to mend about a sitemap or a file of one.
type Finding struct {
	Line     int // in the file; 0 where it was not read from one
	Severity Severity
	Rule     string
	ID       string // the entry
	From     string // the address
	Message  string
}

// Refused says why a file cannot be used at all, where, and what to do.
type Refused struct {
	Line    int
	Problem string
	Advice  string
}

func (r *Refused) Error() string {
	if r.Line > 0 {
		return fmt.Sprintf("line %d: %s; %s", r.Line, r.Problem, r.Advice)
	}
	return r.Problem + "; " + r.Advice
}
