package navigation

import (
	"time"

	"candlepath/internal/core/findability"
)

// Study is tasks put to colleagues: where would something be?
type Study struct {
	ID, Title string
	Nodes     []findability.Node
	Tasks     []StudyTask
	Source    string // which state of the sitemap it is of, in words
	Secret    string // in its address
	Ends      time.Time
	PersonID  string
	At        time.Time
	People    int // who answered
}

// StudyTask is one question, and the pages that answer it.
type StudyTask struct {
	Question string   `json:"question"`
	Right    []string `json:"right"`
	Closed   bool     `json:"-"` // none of the right pages is for everybody any more
}
