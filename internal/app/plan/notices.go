package plan

import (
	"slices"
	"time"

	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
)

// Notice tells one person something.
type Notice struct {
	ID       int64
	PersonID string
	Kind     NoticeKind
	Subject  string // what it is about, by its kind: an entry, a template, an address
	Words    string // whole sentences
	At       time.Time
	Read     bool
	Adds     bool // what is told goes to what was told of the same and is not read yet
}

// NoticeKind says what a notice is about, and so where it leads.
type NoticeKind string

// The kinds of notices.
const (
	NoticePage     NoticeKind = "page"     // Subject is an entry whose page needs something
	NoticeTemplate NoticeKind = "template" // Subject is a template, whose pages need something
	NoticeAddress  NoticeKind = "address"  // Subject is an address that answers nothing
	NoticeDue      NoticeKind = "due"      // Subject is a day on which redirects are due
	NoticeReview   NoticeKind = "review"   // Subject is a request to review changes
	NoticeReviewed NoticeKind = "reviewed" // Subject is the request and what was approved or sent back, or what was remarked
	NoticeOlder    NoticeKind = "older"    // Subject is the host of an older site whose list was imported; empty: it was refused
	NoticeEdition  NoticeKind = "edition"  // Subject is the number of a large edition that went out; empty: it did not
	NoticeExport   NoticeKind = "export"   // Subject is an export of an edition
)

// NoticeKinds lists them.
func NoticeKinds() []NoticeKind {
	return []NoticeKind{NoticePage, NoticeTemplate, NoticeAddress, NoticeDue, NoticeOlder, NoticeReview, NoticeReviewed, NoticeEdition, NoticeExport}
}

// MostUnread is how many notices of one kind wait for a person at most; what comes then is not
// told before some are read.
const MostUnread = 200

// OwnerOf gives the name of who looks after an entry: its own owner, or that of the nearest
// entry above it; empty where there is none.
func OwnerOf(t *sitemap.Tree, i int) string {
	for ; i != sitemap.None; i = t.Parent(i) {
		if owner := t.Ref(i).Owner; owner != "" {
			return owner
		}
	}
	return ""
}

// Called gives the people of a name who still sign in and may plan.
func Called(people []Person, name string) (out []Person) {
	for _, p := range people {
		if p.Name == name && name != "" && !p.Inactive && p.Role != workflow.Reader {
			out = append(out, p)
		}
	}
	return out
}

// Managers gives the people who govern the site.
func Managers(people []Person) []Person {
	return slices.DeleteFunc(slices.Clone(people), func(p Person) bool { return p.Inactive || p.Role != workflow.Manager })
}
