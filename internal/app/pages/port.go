package pages

import (
	"time"

	"candlepath/internal/core/content"
)

// KeptText is a text that met another and waits for a choice.
type KeptText struct {
	ID, EntryID, PersonID string
	Content               content.Page
	At                    time.Time
}
