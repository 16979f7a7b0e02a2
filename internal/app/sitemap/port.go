package sitemap

import (
	"time"
)

// SavedView is how somebody looks at the outline: filters, columns and sorting,
// as they stand in its URL.
type SavedView struct {
	Name  string `json:"name"`
	Query string `json:"query"`
}

// BringIn is a file on its way in.
type BringIn struct {
	ID, PersonID string
	At           time.Time
	FileName     string
	Data         []byte
	State        string
	Done, Total  int
	Message      string
	Way, Place   string
	Follow       bool      // an older site: pages get the addresses that follow from their place
	Texts        bool      // an older site: the texts of pages come along
	Sheet        []byte    // what was understood of it
	Seen         time.Time // last sign of life of whoever reads or writes it
}
