package workflow

// PageState is where a page stands, in a word or two for people.
type PageState string

// The page states.
const (
	Withdrawn   PageState = "withdrawn"
	Drafted     PageState = "draft" // never published, with a text
	ToBeCarried PageState = "to be carried"
	Planned     PageState = "planned"      // never published, no text yet
	Edited      PageState = "live, edited" // the text changed in Next
	Replanned   PageState = "live, planned"
	Unchanged   PageState = "live"
)

// StatusIcon is the glyph of a page state.
type StatusIcon string

// The wicks: an unlit ring, a half, a lit one, and a bar across.
const (
	Unlit   StatusIcon = "never"
	HalfLit StatusIcon = "half"
	Lit     StatusIcon = "live"
	Barred  StatusIcon = "bar"
)

// wicks gives every page state its glyph.
var icons = map[PageState]StatusIcon{
	Withdrawn: Barred, Drafted: Unlit, ToBeCarried: Unlit, Planned: Unlit, Edited: HalfLit, Replanned: HalfLit, Unchanged: Lit,
}

// Icon gives the glyph of a state.
func (s PageState) Icon() StatusIcon { return icons[s] }

// PageFacts are what the state of an entry follows from.
type PageFacts struct {
	Live      bool // in Live
	Draft     bool // has a text that is not out
	Planned   bool // differs from Live otherwise
	Withdrawn bool
	Carried   bool // its content is to come from an older site
	Written   bool // has a text
	Owned     bool
}

// InventoryFilter picks pages by where they stand.
type InventoryFilter struct {
	Key, Words string
	Fits       func(PageFacts) bool
}

// InventoryFilters lists them as they are offered; the first picks all pages.
func InventoryFilters() []InventoryFilter {
	return []InventoryFilter{
		{"", "All", func(PageFacts) bool { return true }},
		{"edited", "Unpublished edits", func(f PageFacts) bool { return f.Draft }},
		{"unwritten", "No content yet", func(f PageFacts) bool { return !f.Written }},
		{"unpublished", "Never published", func(f PageFacts) bool { return f.State().Icon() == Unlit }},
		{"withdrawn", "Withdrawn", func(f PageFacts) bool { return f.Withdrawn }},
		{"no-owner", "No owner", func(f PageFacts) bool { return !f.Owned }},
	}
}

// PageStates lists all page states.
func PageStates() []PageState {
	return []PageState{Withdrawn, Drafted, ToBeCarried, Planned, Edited, Replanned, Unchanged}
}

// State tells where a page stands.
func (f PageFacts) State() PageState {
	switch {
	case f.Withdrawn:
		return Withdrawn
	case !f.Live && f.Draft:
		return Drafted
	case !f.Live && f.Carried:
		return ToBeCarried
	case !f.Live:
		return Planned
	case f.Draft:
		return Edited
	case f.Planned:
		return Replanned
	}
	return Unchanged
}
