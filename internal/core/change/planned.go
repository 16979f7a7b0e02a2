package change

import "time"

// Planned tells who planned something last, and when.
type Planned struct {
	PersonID string
	At       time.Time
}
