package sheet

import (
	"fmt"
)

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
