// Package sitemap is the ordered tree of entries that a site is planned as.
//
// A Tree is immutable: every edit gives a new one, so that Live and Next can be
// held side by side and shared between requests. Entries stand in document
// order (a parent before its children, siblings in their order), which makes
// every branch one contiguous run: moving a branch is cutting a run out and
// putting it in elsewhere.
//
// The home page is the entry with the fixed address "/". Every other entry
// without a parent counts as a child of home, with or without a home in the
// tree. Addresses derive from the tree when it is built:
//
//	page, carried page   address of the nearest address-giving ancestor + "/" + slug
//	group                gives a segment only if it has a slug, and has no page
//	any of these, fixed  its fixed address, and what is below derives from that
//	reference, outside   no address, and nothing below
//	link, file
//
// A withdrawn page keeps its place and its claim on an address, but is not
// served: Address tells the claim, Served whether readers get it.
package sitemap

import (
	"strings"

	"candlepath/internal/core/address"
)

// Kind is what an entry is.
type Kind string

// The kinds of entry; see the package comment for what each does to addresses.
const (
	Page      Kind = "page"
	Carried   Kind = "carried" // a page whose content is to come from Source
	Reference Kind = "reference"
	Outside   Kind = "outside"
	File      Kind = "file"
	Group     Kind = "group"
)

// Kinds lists every kind in the order in which interfaces offer them.
func Kinds() []Kind { return []Kind{Page, Carried, Reference, Outside, File, Group} }

// Label is the kind in words.
func (k Kind) Label() string {
	switch k {
	case Carried:
		return "carried page"
	case Outside:
		return "outside link"
	default:
		return string(k)
	}
}

// IsPage tells whether entries of this kind have an address and content.
func (k Kind) IsPage() bool { return k == Page || k == Carried }

// HoldsChildren tells whether entries of this kind may have others below them.
func (k Kind) HoldsChildren() bool { return k == Page || k == Carried || k == Group }

// Entry is one line of the sitemap. The zero value of every field is its
// default, and two entries are the same when they compare equal. As JSON it is kept with
// acts, 20,000 at once after an import, so defaults are left out.
type Entry struct {
	ID     string
	Parent string `json:",omitzero"` // id; empty below home
	Rank   string `json:",omitzero"` // orders siblings by bytes; see Between

	Title    string `json:",omitzero"`
	Short    string `json:",omitzero"`
	Slug     string `json:",omitzero"`
	SlugHeld bool   `json:",omitzero"` // published once or set by hand: no longer follows the title
	Fixed    string `json:",omitzero"` // a fixed address in normal form, or empty
	Kind     Kind   `json:",omitzero"`
	Target   string `json:",omitzero"` // reference: id of an entry; outside link: URL; file: name or path
	Source   string `json:",omitzero"` // carried page: where its content is to come from
	Template string `json:",omitzero"`
	Owner    string `json:",omitzero"`
	Unlisted bool   `json:",omitzero"` // computed menus and lists leave it out

	Topics     string `json:",omitzero"` // separated by "; "
	Readership string `json:",omitzero"`
	Review     string `json:",omitzero"` // a date, 2006-01-02
	Notes      string `json:",omitzero"`
	Withdrawn  bool   `json:",omitzero"`
}

// Name is what menus and tiles call the entry.
func (e Entry) Name() string {
	if e.Short != "" {
		return e.Short
	}
	return e.Title
}

// TopicList lists the topics of the entry.
func (e *Entry) TopicList() []string {
	if e.Topics == "" {
		return nil
	}
	return strings.Split(e.Topics, "; ")
}

// IsHome tells whether the entry is the home page.
func (e Entry) IsHome() bool { return e.Fixed == "/" && e.Parent == "" }

// Retitle gives the entry a title; the slug of a page follows until it is held.
func (e *Entry) Retitle(title string) {
	e.Title = title
	if e.Kind.IsPage() && !e.SlugHeld && e.Fixed == "" {
		e.Slug = address.Slug(title)
	}
}

// Turn makes the entry one of another kind, without what that kind cannot have.
func (e *Entry) Turn(k Kind) {
	if e.Kind == k {
		return
	}
	e.Kind = k
	if k == Group {
		e.Slug = ""
	}
	if !k.IsPage() {
		e.Withdrawn = false
		if !e.IsHome() {
			e.Fixed = ""
		}
	}
	if !k.HoldsChildren() {
		e.Target = ""
	}
}
