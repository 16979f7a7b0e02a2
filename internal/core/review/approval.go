package review

import (
	"time"

	"candlepath/internal/core/workflow"
)

// ApprovalState is where a planned change was put, and when.
type ApprovalState struct {
	workflow.ApprovalState
	At   time.Time
	GoAt time.Time // of a scheduled one: its minute
	Zone string    // in which that was said
	By   string    // who put it there, where that is not who approved it

	Approved bool // of a scheduled one: somebody approved it; else it was given its date as a draft, where nothing is asked
}

// Publisher is who publishes a scheduled change: who gave it its date.
func (s ApprovalState) Publisher() string {
	if s.By != "" {
		return s.By
	}
	return s.Person
}
