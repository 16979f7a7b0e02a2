package sitemap

// Filter picks entries of the outline by something that is so or not.
type Filter struct {
	Key, Words string
	fits       func(e *Entry, o CheckOptions) bool
}

// Filters lists them as they are offered.
func Filters() []Filter { return filters }

var filters = []Filter{
	{"review", "review date passed", func(e *Entry, o CheckOptions) bool { return reviewPassed(e, o.Today) }},
	{"unlisted", "not in menus", func(e *Entry, _ CheckOptions) bool { return e.Unlisted }},
	{"notes", "with notes", func(e *Entry, _ CheckOptions) bool { return e.Notes != "" }},
	{"unknown", "owner unknown here", func(e *Entry, o CheckOptions) bool { return ownerUnknown(e, o.People) }},
	{"no-owner", "no owner", func(e *Entry, _ CheckOptions) bool { return ownerMissing(e) }},
}

// Fitting gives the keys of the filters that an entry fits.
func Fitting(e *Entry, o CheckOptions) []string {
	var keys []string
	for _, f := range filters {
		if f.fits(e, o) {
			keys = append(keys, f.Key)
		}
	}
	return keys
}

// reviewPassed tells whether the day on which an entry was to be reviewed is over.
func reviewPassed(e *Entry, today string) bool {
	return today != "" && e.Review != "" && e.Review < today && len(e.Review) == len(today)
}

// ownerUnknown tells whether an entry names an owner who is not among the people.
func ownerUnknown(e *Entry, people map[string]bool) bool {
	return e.Owner != "" && people != nil && !people[e.Owner]
}

// ownerMissing tells whether an entry is a page that nobody owns.
func ownerMissing(e *Entry) bool { return e.Owner == "" && e.Kind.IsPage() }
